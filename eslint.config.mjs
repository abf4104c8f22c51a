import { readFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'
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

const root = dirname(fileURLToPath(import.meta.url))
const SCRIPT = /<script setup lang="ts"[^>]*>([\s\S]*?)<\/script>/

/** All scripts of components as one program. The parser by itself makes one anew for each component, of all the app: minutes. */
let components
function programOfComponents() {
  if (components) return components
  const path = resolve(root, '.nuxt/tsconfig.app.json')
  const { config } = ts.readConfigFile(path, ts.sys.readFile)
  const vueFiles = [{ extension: '.vue', isMixedContent: true, scriptKind: ts.ScriptKind.Deferred }]
  const parsed = ts.parseJsonConfigFileContent(config, ts.sys, dirname(path), undefined, path, undefined, vueFiles)
  const options = { ...parsed.options, allowNonTsExtensions: true }
  const host = ts.createCompilerHost(options, true)
  const read = host.getSourceFile
  host.getSourceFile = (name, version, ...more) =>
    name.endsWith('.vue')
      ? ts.createSourceFile(name, SCRIPT.exec(readFileSync(name, 'utf8'))?.[1] ?? '', version, true, ts.ScriptKind.TS)
      : read(name, version, ...more)
  return (components = ts.createProgram({ rootNames: parsed.fileNames, options, host }))
}

/** The parser of TypeScript, which finds a component's script in the program of them all. */
const parser = {
  ...tseslint.parser,
  parseForESLint(code, { project, ...options }) {
    const known = project && programOfComponents().getSourceFile(resolve(options.filePath))?.text === code
    const typed = known ? { programs: [programOfComponents()] } : { project }
    return tseslint.parser.parseForESLint(code, { ...options, ...(project && typed) })
  },
}

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
    languageOptions: { parserOptions: { parser, project: './.nuxt/tsconfig.app.json', extraFileExtensions: ['.vue'] } },
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
