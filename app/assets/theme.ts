import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const teal = {
  50: '#e9f5f5',
  100: '#c8e6e6',
  200: '#9fd3d4',
  300: '#6fbcbf',
  400: '#3fa1a6',
  500: '#12848b',
  600: '#0d6c73',
  700: '#0a575d',
  800: '#084449',
  900: '#063337',
  950: '#042326',
}

/** Paper and Lamp: one set of tokens for both. */
const preset = definePreset(Aura, {
  semantic: {
    primary: teal,
    borderRadius: { sm: '3px', md: '4px', lg: '6px' },
    transitionDuration: '120ms',
    focusRing: { width: '2px', style: 'solid', color: '{amber.500}', offset: '2px' },
    colorScheme: {
      light: {
        surface: {
          0: '#fffdf7',
          50: '#faf5ea',
          100: '#f3ecdd',
          200: '#e6dcc8',
          300: '#d2c6ae',
          400: '#a89d88',
          500: '#7c7466',
          600: '#5c574e',
          700: '#41403c',
          800: '#2a2d33',
          900: '#1c2530',
          950: '#121a24',
        },
        primary: {
          color: '{primary.600}',
          contrastColor: '#ffffff',
          hoverColor: '{primary.700}',
          activeColor: '{primary.800}',
        },
        text: { color: '#1c2f45', hoverColor: '#12202f', mutedColor: '#5a6473', hoverMutedColor: '#3f4a5a' },
        content: { background: '#fffdf7', borderColor: '#ddd2bd', color: '#1c2f45' },
        formField: { background: '#fffdf7', borderColor: '#bfb39b', placeholderColor: '#5a6473' },
      },
      dark: {
        surface: {
          0: '#ffffff',
          50: '#f2eee4',
          100: '#ddd8cc',
          200: '#b8bcbf',
          300: '#8fa0ab',
          400: '#637a8a',
          500: '#46606f',
          600: '#2f4858',
          700: '#1f3747',
          800: '#152a39',
          900: '#0f212e',
          950: '#0a1822',
        },
        primary: {
          color: '{primary.300}',
          contrastColor: '#06262a',
          hoverColor: '{primary.200}',
          activeColor: '{primary.100}',
        },
        text: { color: '#f4ecdb', hoverColor: '#ffffff', mutedColor: '#a9b8c0', hoverMutedColor: '#c8d3d8' },
        content: { background: '#12283a', borderColor: '#29455a', color: '#f4ecdb' },
        formField: { background: '#0f2231', borderColor: '#3a586c', placeholderColor: '#a9b8c0' },
      },
    },
  },
  components: {
    // the usual red is too pale on paper for words
    button: { colorScheme: { light: { text: { danger: { color: '{red.700}' } } } } },
    // what is not chosen must still be read
    togglebutton: {
      colorScheme: { light: { root: { color: '{surface.600}' } }, dark: { root: { color: '{surface.200}' } } },
    },
  },
})

export default { preset, options: { darkModeSelector: '.lamp', cssLayer: false } }
