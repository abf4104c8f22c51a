/** Hands a file to the person. */
export function download(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  // the browser has it by then
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
