import {
  Extension,
  ExtensionProperty,
  PropertyType,
  RefList,
  type IProperty,
  type Node,
  type ReaderContext,
  type WriterContext,
} from '@gltf-transform/core'

const NAME = 'MSFT_lod'

interface ILevels extends IProperty {
  nodes: RefList<Node>
}

/** Coarser nodes that may stand in for the node it is set on, finest first. */
export class Levels extends ExtensionProperty<ILevels> {
  static override EXTENSION_NAME = NAME
  declare extensionName: typeof NAME
  declare propertyType: 'Levels'
  declare parentTypes: [PropertyType.NODE]

  protected init(): void {
    this.extensionName = NAME
    this.propertyType = 'Levels'
    this.parentTypes = [PropertyType.NODE]
  }

  protected override getDefaults() {
    return Object.assign(super.getDefaults() as IProperty, { nodes: new RefList<Node>() })
  }

  addNode(node: Node): this {
    return this.addRef('nodes', node)
  }

  listNodes(): Node[] {
    return this.listRefs('nodes')
  }
}

/** The published vendor extension for levels of detail. */
export class LodExtension extends Extension {
  static override readonly EXTENSION_NAME = NAME
  override readonly extensionName = NAME

  createLevels(): Levels {
    return new Levels(this.document.getGraph())
  }

  read(context: ReaderContext): this {
    const nodes = context.jsonDoc.json.nodes ?? []
    nodes.forEach((def, i) => {
      const ids = (def.extensions?.[NAME] as { ids?: number[] } | undefined)?.ids
      if (!ids) return
      const levels = this.createLevels()
      for (const id of ids) if (context.nodes[id]) levels.addNode(context.nodes[id])
      context.nodes[i]!.setExtension(NAME, levels)
    })
    return this
  }

  write(context: WriterContext): this {
    for (const node of this.document.getRoot().listNodes()) {
      const levels = node.getExtension<Levels>(NAME)
      if (!levels) continue
      const def = context.jsonDoc.json.nodes![context.nodeIndexMap.get(node)!]!
      def.extensions = {
        ...def.extensions,
        [NAME]: { ids: levels.listNodes().map((n) => context.nodeIndexMap.get(n)!) },
      }
    }
    return this
  }
}
