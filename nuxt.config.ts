import { fileURLToPath } from 'node:url'
import { preparedChecks } from './scripts/checks.mjs'

const source = (path: string) => fileURLToPath(new URL(`packages/${path}`, import.meta.url))
const core = source('core/src/index.ts')

const OPTIONS = { allowImportingTsExtensions: true, noUncheckedIndexedAccess: true }

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  // its development server cannot do without rendering on the server; no page asks for it
  $development: { ssr: true, routeRules: { '/**': { ssr: false } } },
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', '@primevue/nuxt-module'],
  css: ['~/assets/main.css'],
  alias: {
    '@idle-tinker/core': core,
    '@idle-tinker/runtime': source('runtime/src/index.ts'),
    '@idle-tinker/tryout': source('tryout/src/index.ts'),
    '@idle-tinker/example/room.css': source('example/src/room.css'),
    '@idle-tinker/example': source('example/src/index.ts'),
  },
  app: {
    head: {
      title: 'Idle Tinker',
      htmlAttrs: { lang: 'en' },
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
    },
  },
  primevue: {
    autoImport: false,
    importTheme: { from: '~/assets/theme.ts' },
    components: {
      include: [
        'Button',
        'Slider',
        'InputText',
        'Select',
        'MultiSelect',
        'Textarea',
        'Dialog',
        'Toast',
        'ProgressBar',
        'ToggleButton',
        'ToggleSwitch',
        'SelectButton',
        'InputNumber',
        'Menu',
        'Popover',
        'ConfirmDialog',
        'Message',
        'Checkbox',
        'Accordion',
        'AccordionPanel',
        'AccordionHeader',
        'AccordionContent',
      ],
    },
    directives: { include: ['Tooltip'] },
  },
  imports: { autoImport: true },
  components: [{ path: '~/components', pathPrefix: false }],
  vite: {
    plugins: [preparedChecks()],
    worker: { format: 'es', plugins: () => [preparedChecks()] },
    build: { target: 'es2022', chunkSizeWarningLimit: 1500 },
    optimizeDeps: { exclude: ['meshoptimizer'] },
  },
  nitro: {
    typescript: { tsConfig: { compilerOptions: OPTIONS } },
    errorHandler: '~~/server/error.ts',
    esbuild: { options: { target: 'es2022' } },
    rollupConfig: { plugins: [preparedChecks()] },
  },
  typescript: {
    strict: true,
    tsConfig: { compilerOptions: OPTIONS },
    sharedTsConfig: { compilerOptions: OPTIONS },
    nodeTsConfig: { compilerOptions: OPTIONS },
  },
})
