import { createRequire } from 'node:module'

interface Message {
  code: string
  message: string
  pointer?: string
  /** 0: error, 1: warning, then what is only told. */
  severity: number
}

// a CommonJS package without types
const validator = createRequire(import.meta.url)('gltf-validator') as {
  validateBytes(
    bytes: Uint8Array,
    options: { externalResourceFunction?: (uri: string) => Promise<Uint8Array> },
  ): Promise<{ issues: { messages: Message[] } }>
}

/**
 * The errors and warnings that the validator of the standard's authors finds in a glTF file.
 *
 * @param options.beside files that it may ask for, by name
 */
export async function glbFaults(
  bytes: Uint8Array,
  { warnings = true, beside = new Map<string, Uint8Array>() } = {},
): Promise<string[]> {
  const { issues } = await validator.validateBytes(bytes, {
    externalResourceFunction: (uri) =>
      beside.has(uri) ? Promise.resolve(beside.get(uri)!) : Promise.reject(new Error(`${uri} is not there`)),
  })
  return issues.messages
    .filter(({ severity }) => severity < (warnings ? 2 : 1))
    .map(({ code, message, pointer = '' }) => `${code} ${pointer} ${message}`)
}
