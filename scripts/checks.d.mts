import type { Plugin as EsbuildPlugin } from 'esbuild'
import type { Plugin } from 'vite'

export function checksModule(): Promise<string>
export function preparedChecks(): Plugin
export const preparedChecksForEsbuild: EsbuildPlugin
