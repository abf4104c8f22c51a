export function hasProgram(name: string): boolean
export function ensurePackages(programs: Record<string, string>, pause?: number): void
export function ensureModules(root: string): void
export function ensureSpace(root: string): void
