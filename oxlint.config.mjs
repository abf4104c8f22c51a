// Lint of everything but components, in seconds. Components, with the same rules under other names: eslint.config.mjs.

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
/** These stand at the end of the pipeline and may use all of it. */
const ENDS = ['crowd', 'picks', 'ship', 'pack']

const outside = {
  group: ['vue', 'pinia', 'nuxt', 'primevue', 'mysql2', 'node:*', '#imports', '~/*', '~~/*'],
  message: 'The core knows no interface, file system or network.',
}
const imports = (...patterns) => ({ 'no-restricted-imports': ['error', { patterns }] })
const TESTS = ['**/*.test.ts']

const rooms = ROOMS.filter((room) => !ENDS.includes(room)).map((room) => ({
  files: [`packages/core/src/${room}/**/*.ts`],
  excludeFiles: TESTS,
  rules: imports(outside, {
    group: [...ROOMS.slice(ROOMS.indexOf(room) + 1).map((r) => `../${r}/*`), '../build*', '../index*'],
    message: `A room imports only rooms above it; ${room} stands above this one.`,
  }),
}))

/** What holds of components as well. */
export const everywhere = {
  'no-var': 'error',
  'prefer-const': 'error',
  'prefer-rest-params': 'error',
  'prefer-spread': 'error',
  'no-console': ['error', { allow: ['error', 'log'] }],
}

export default {
  plugins: ['typescript'],
  categories: { correctness: 'off' },
  ignorePatterns: ['**/.bundle/**', '.nuxt/**', '.output/**', '.data/**', 'kits/**', '**/*.vue'],
  rules: {
    ...everywhere,
    'no-array-constructor': 'error',
    'no-unused-expressions': 'error',
    'no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
    'typescript/ban-ts-comment': 'error',
    'typescript/no-duplicate-enum-values': 'error',
    'typescript/no-empty-object-type': 'error',
    'typescript/no-explicit-any': 'error',
    'typescript/no-extra-non-null-assertion': 'error',
    'typescript/no-misused-new': 'error',
    'typescript/no-namespace': 'error',
    'typescript/no-non-null-asserted-optional-chain': 'error',
    'typescript/no-require-imports': 'error',
    'typescript/no-this-alias': 'error',
    'typescript/no-unnecessary-type-constraint': 'error',
    'typescript/no-unsafe-declaration-merging': 'error',
    'typescript/no-unsafe-function-type': 'error',
    'typescript/no-wrapper-object-types': 'error',
    'typescript/prefer-as-const': 'error',
    'typescript/prefer-namespace-keyword': 'error',
    'typescript/triple-slash-reference': 'error',
    // what is not awaited fails unseen
    'typescript/no-floating-promises': 'error',
    'typescript/no-misused-promises': 'error',
    'typescript/await-thenable': 'error',
  },
  overrides: [
    {
      files: ['packages/core/src/**/*.ts'],
      excludeFiles: [...TESTS, '**/testing/**'],
      rules: {
        'no-restricted-properties': [
          'error',
          { object: 'Math', property: 'random', message: 'Use createRandom with a seed.' },
          { object: 'Date', property: 'now' },
        ],
        'no-restricted-globals': ['error', 'window', 'document', 'fetch', 'performance'],
        ...imports(outside),
      },
    },
    ...rooms,
    {
      files: ['app/stage/**/*.ts'],
      rules: imports({
        group: ['../components/*', '../stores/*', '../pages/*', 'vue', 'pinia'],
        message: 'The stage is imported by components and never imports them.',
      }),
    },
  ],
}
