import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'

/** The rooms of the core, in order: a room may import only from rooms above it. */
const ROOMS = [
  'base',
  'mesh',
  'scene',
  'kit',
  'rig',
  'autorig',
  'motion',
  'recipe',
  'body',
  'dress',
  'color',
  'budget',
  'crowd',
  'picks',
  'ship',
  'pack',
]
const OUTSIDE = ['vue', 'pinia', 'nuxt', 'primevue', 'mysql2', 'node:*', '#imports', '~/*', '~~/*']

/** These stand at the end of the pipeline and may use all of it. */
const ENDS = ['crowd', 'picks', 'ship', 'pack']
const outside = { group: OUTSIDE, message: 'The core knows no interface, file system or network.' }

const rooms = ROOMS.filter((room) => !ENDS.includes(room)).map((room) => ({
  files: [`packages/core/src/${room}/**/*.ts`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          outside,
          {
            group: [...ROOMS.slice(ROOMS.indexOf(room) + 1).map((r) => `../${r}/*`), '../build*', '../index*'],
            message: `A room imports only rooms above it; ${room} stands above this one.`,
          },
        ],
      },
    ],
  },
}))

export default tseslint.config(
  { ignores: ['**/.bundle/**', 'node_modules/**', '.nuxt/**', '.output/**', '.data/**', 'kits/**'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    languageOptions: { parserOptions: { parser: tseslint.parser, sourceType: 'module' } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      // the formatter has the say over line breaks
      'vue/singleline-html-element-content-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-indent': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/require-default-prop': 'off',
      'no-console': ['error', { allow: ['error', 'log'] }],
    },
  },
  {
    // the same rules stand in .oxlintrc.json, for all that is no component: there they take seconds, here minutes
    files: ['app/**/*.vue'],
    languageOptions: { parserOptions: { project: './.nuxt/tsconfig.app.json', extraFileExtensions: ['.vue'] } },
    rules: {
      // what is not awaited fails unseen
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
    },
  },
  {
    files: ['packages/core/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/testing/**'],
    rules: {
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Use createRandom with a seed.' },
        { object: 'Date', property: 'now' },
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'fetch', 'performance'],
      'no-restricted-imports': ['error', { patterns: [outside] }],
    },
  },
  ...rooms,
  {
    files: ['app/stage/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['../components/*', '../stores/*', '../pages/*', 'vue', 'pinia'],
              message: 'The stage is imported by components and never imports them.',
            },
          ],
        },
      ],
    },
  },
)
