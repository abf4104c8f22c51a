/** The path of an entry file, from the project's root, as one bundle; it is made anew when what is in `more` changes, too. */
export function bundled(entry: string, more?: readonly string[]): Promise<string>
