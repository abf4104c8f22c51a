import { Extension, type ReaderContext } from '@gltf-transform/core'

/** A glTF extension that is understood, by what is done once the rest of a file is read; nothing if its name is all. */
export function understood(name: string, take: (context: ReaderContext) => void = () => {}): typeof Extension {
  return class extends Extension {
    static override readonly EXTENSION_NAME = name
    override readonly extensionName = name

    override read(context: ReaderContext): this {
      take(context)
      return this
    }

    override write(): this {
      return this
    }
  }
}
