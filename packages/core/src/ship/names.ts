import type { Target } from '../recipe/target.ts'
import { problem, type Problem } from '../base/problem.ts'

/** What stands for what in a pattern of names. */
export interface Filling {
  /** The figure's. */
  name: string
  /** The target's id. */
  target?: string
  /** Of many figures, which. */
  number?: number
  project?: string
  /** The crowd's that the figure is of; empty for one by itself. */
  crowd?: string
  clip?: string
  /** Of its levels of detail, which; 0 for the finest. */
  level?: number
  /** Year, month and day: “2026-11-29”. */
  date?: string
}

const WORDS = ['name', 'figure', 'target', 'number', 'project', 'crowd', 'clip', 'level', 'date'] as const

/** Fills in a pattern: {figure} or {name}, {target}, {number}, {project}, {crowd}, {clip}, {level}, {date}; the rest stays. */
export function fillPattern(pattern: string, fill: Filling): string {
  const values: Record<(typeof WORDS)[number], string> = {
    name: fill.name,
    figure: fill.name,
    target: fill.target ?? '',
    number: String(fill.number ?? 1).padStart(3, '0'),
    project: fill.project ?? '',
    crowd: fill.crowd ?? '',
    clip: fill.clip ?? '',
    level: String(fill.level ?? 0),
    date: fill.date ?? '',
  }
  return pattern.replaceAll(/\{([a-z]+)\}/g, (whole, word: string) =>
    Object.hasOwn(values, word) ? values[word as keyof typeof values] : whole,
  )
}

/** Words in braces that no pattern knows, as problems. */
export function patternFaults(pattern: string, where: string): Problem[] {
  const unknown = [...pattern.matchAll(/\{([^}]*)\}/g)].map((m) => m[1]!).filter((w) => !WORDS.includes(w as never))
  return [...new Set(unknown)].map((word) =>
    problem('pattern-unknown', where, `Nothing stands for {${word}}.`, `Use ${WORDS.map((w) => `{${w}}`).join(', ')}.`),
  )
}

/** What files are called by a target, where it says nothing else. */
export const USUAL_NAME = '{figure}'

/** Folders of several things for several targets, where nothing else is said. */
export const USUAL_FOLDERS = '{target}/{crowd}'

/** The pattern by which a target calls files. */
export const filePattern = ({ convention }: Pick<Target, 'convention'>): string => convention.names?.file ?? USUAL_NAME

/** Names that some file systems keep for themselves. */
const KEPT = /^(?:con|prn|aux|nul|com\d|lpt\d)$/

/** Letters, digits, - and _, small, so that every file system and archive takes it; empty where nothing is left. */
function safeName(text: string): string {
  const safe = text
    .normalize('NFKD')
    // letters without what stands over them: “Jörg” is “jorg”
    .replace(/\p{M}+/gu, '')
    .replace(/[^A-Za-z0-9_-]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase()
    .slice(0, 80)
  return KEPT.test(safe) ? `${safe}-figure` : safe
}

/** A file's name from a pattern, without ending. */
export const fileName = (pattern: string, fill: Filling): string => safeName(fillPattern(pattern, fill)) || 'figure'

/**
 * Folders from a pattern with a / between each, “near/quay-at-noon/”; those of which nothing is left are not there,
 * so that {target}/{crowd} is one folder for a figure by itself.
 */
export function folderPath(pattern: string, fill: Filling): string {
  const folders = pattern.split('/').map((part) => safeName(fillPattern(part, fill)))
  return folders.flatMap((folder) => (folder ? [`${folder}/`] : [])).join('')
}

/** One name for each of many figures; a name that is taken gets its number behind it. */
export function fileNames(
  pattern: string,
  names: readonly string[],
  fill: Omit<Filling, 'name' | 'number'> = {},
): string[] {
  const taken = new Set<string>()
  return names.map((name, i) => {
    const base = fileName(pattern, { ...fill, name, number: i + 1 })
    let free = base
    for (let n = i + 1; taken.has(free); n++) free = `${base}-${n}`
    taken.add(free)
    return free
  })
}

/** A file's name without ending for each clip of a figure: “maren-walk”; a name that is taken gets a number. */
export function clipStems(stem: string, clips: readonly { name: string }[], taken: Iterable<string> = []): string[] {
  const used = new Set(taken)
  return clips.map(({ name }) => {
    const base = `${stem}-${fileName('{clip}', { name: stem, clip: name })}`
    let free = base
    for (let n = 2; used.has(free); n++) free = `${base}-${n}`
    used.add(free)
    return free
  })
}
