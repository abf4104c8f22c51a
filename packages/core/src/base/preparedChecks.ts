import type { Checks } from './checks.ts'

/**
 * Checks of documents that were compiled with the program, by the name of their schema. None here: a build puts what
 * `prepareChecks` writes in this module's place (scripts/checks.mjs), so that a page needs no compiler and no leave to
 * make code of texts. Without it they are compiled as they are met, and say the same.
 */
export const preparedChecks: Readonly<Record<string, Checks>> = {}
