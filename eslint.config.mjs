import { readFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import ts from 'typescript'
import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'
import { everywhere } from './oxlint.config.mjs'

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
  { ignores: ['node_modules/**', '.nuxt/**', '.output/**', '.data/**'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    // all else: oxlint.config.mjs
    files: ['app/**/*.vue'],
    languageOptions: {
      parserOptions: {
        parser,
        sourceType: 'module',
        project: './.nuxt/tsconfig.app.json',
        extraFileExtensions: ['.vue'],
      },
    },
    rules: {
      ...everywhere,
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
      // what is not awaited fails unseen
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
    },
  },
)
