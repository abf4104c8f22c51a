/** The path of an entry file, from the project's root, as one bundle. */
export function bundled(entry: string): Promise<string>
