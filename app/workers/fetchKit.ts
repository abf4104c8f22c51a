/** The files of a kit, from the server. */
export async function fetchKit(base: string, id: string, files: readonly string[]): Promise<Map<string, Uint8Array>> {
  const contents = await Promise.all(
    files.map(async (path): Promise<[string, Uint8Array]> => {
      const at = path.split('/').map(encodeURIComponent).join('/')
      const answer = await fetch(`${base}/api/kits/${id}/${at}`)
      if (!answer.ok) throw new Error(`The file ${path} of the kit cannot be had (${answer.status}).`)
      return [path, new Uint8Array(await answer.arrayBuffer())]
    }),
  )
  return new Map(contents)
}
