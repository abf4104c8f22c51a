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
  validateBytes(bytes: Uint8Array): Promise<{ issues: { messages: Message[] } }>
}

/** The errors and warnings that the validator of the standard's authors finds in a binary glTF file. */
export async function glbFaults(bytes: Uint8Array, { warnings = true } = {}): Promise<string[]> {
  const { issues } = await validator.validateBytes(bytes)
  return issues.messages
    .filter(({ severity }) => severity < (warnings ? 2 : 1))
    .map(({ code, message, pointer = '' }) => `${code} ${pointer} ${message}`)
}
