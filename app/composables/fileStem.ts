/** What a file is called, as a name for what is made of it. */
export function fileStem(file: string, otherwise: string): string {
  const stem = file
    .replace(/\.[^.]*$/, '')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
  return (stem || otherwise).slice(0, 60)
}
