import { Extension } from '@gltf-transform/core'
import { QUANTIZED } from './GlbWriter.ts'

/** Vertices that are whole numbers, which the library reads as they are: only the extension's name is to be known. */
export class Quantization extends Extension {
  static override readonly EXTENSION_NAME = QUANTIZED
  override readonly extensionName = Quantization.EXTENSION_NAME

  override read(): this {
    return this
  }

  override write(): this {
    return this
  }
}
