import { problem, type Read } from '../base/problem.ts'
import { unpackZip } from '../base/unpackZip.ts'
import type { KitFiles } from './readKit.ts'

/** The files of a kit in a zip, where `kit.json` stands at the top or in one folder. */
export function unpackKit(zip: Uint8Array): Read<KitFiles> {
  const refuse = (code: string, message: string, remedy: string): Read<KitFiles> => ({
    value: null,
    problems: [problem(code, 'zip', message, remedy)],
  })
  const { value: entries, problems } = unpackZip(zip, 'kit')
  if (!entries) return { value: null, problems }
  const tops = [...entries.keys()]
    .filter((path) => path === 'kit.json' || path.endsWith('/kit.json'))
    .map((path) => path.slice(0, -'kit.json'.length))
    .sort((a, b) => a.split('/').length - b.split('/').length)
  const [top, next] = tops
  if (top === undefined) return refuse('kit-json-missing', 'There is no kit.json in it.', 'Put kit.json at the top.')
  if (next !== undefined && next.split('/').length === top.split('/').length)
    return refuse('kit-two', `It holds two kits, in “${top}” and “${next}”.`, 'Pack each by itself.')
  const files = [...entries]
    .filter(([path]) => path.startsWith(top))
    .map(([path, bytes]): [string, Uint8Array] => [path.slice(top.length), bytes])
  return { value: new Map(files), problems: [] }
}
