import {
  AnimationMixer,
  Bone,
  BufferAttribute,
  BufferGeometry,
  Group,
  LinearFilter,
  LoopOnce,
  LoopRepeat,
  Matrix4,
  MeshStandardMaterial,
  NearestFilter,
  PropertyBinding,
  Skeleton,
  SkinnedMesh,
  Sphere,
  SRGBColorSpace,
  Texture,
  Vector3,
  type AnimationAction,
  type Material,
} from 'three'
import { Assembly, weightOf } from './Assembly.ts'
import { startLook, type Earned } from './looks.ts'
import type { Look, Told } from './manifest.ts'
import { Springs } from './Springs.ts'
import { toldOf, type Fitting, type OpenBody, type Wardrobe } from './Wardrobe.ts'

export interface FigureOptions {
  /** 0 for the finest level of detail. */
  level?: number
  earned?: Earned
  /** Makes the material from the atlas; one is shared by all figures of a body if it gives the same. */
  material?: (atlas: Texture | null) => Material
}

/** A figure of a package, to be put into a scene: one skinned mesh, one material. */
export class DressedFigure {
  /** Put this into the scene. It stands on its origin and looks along +Z. */
  readonly object = new Group()
  /** What is worn now, whole. */
  look: Look
  level: number

  private readonly raised = new Group()
  private readonly bones: Bone[]
  private readonly mesh: SkinnedMesh
  private readonly geometry = new BufferGeometry()
  private readonly assembly: Assembly
  private readonly mixer: AnimationMixer
  private action: AnimationAction | null = null
  private springs: Springs | null = null
  private fitting: Fitting
  private asked = 0
  private earned: Earned | undefined
  private readonly active: [number, number][]
  private readonly rootRest = new Vector3()
  private readonly rootNow = new Vector3()
  private legs = 1

  private constructor(
    private readonly wardrobe: Wardrobe,
    private readonly body: OpenBody,
    fitting: Fitting,
    material: Material,
    { level = 0, earned }: FigureOptions,
  ) {
    const { entry } = body
    this.level = level
    this.earned = earned
    this.fitting = fitting
    this.look = fitting.look
    this.assembly = new Assembly(entry)
    this.active = entry.morphs.map((_, i) => [i, 0])
    this.bones = entry.bones.map(({ name }) =>
      Object.assign(new Bone(), { name: PropertyBinding.sanitizeNodeName(name) }),
    )
    entry.bones.forEach(({ parent }, i) => (parent < 0 ? this.raised : this.bones[parent]!).add(this.bones[i]!))
    this.mesh = new SkinnedMesh(this.geometry, material)
    this.mesh.name = entry.name
    this.mesh.boundingSphere = new Sphere()
    this.object.add(this.raised)
    this.raised.add(this.mesh)
    this.mixer = new AnimationMixer(this.raised)
    this.redress()
  }

  /** Opens a figure in a look. Null where the body itself cannot be loaded, which is told. Never throws. */
  static async open(
    wardrobe: Wardrobe,
    look: Look | string,
    options: FigureOptions = {},
  ): Promise<{ figure: DressedFigure | null; told: Told[] }> {
    const id = typeof look === 'string' ? look : look?.body
    const entry = wardrobe.body(id) ?? wardrobe.manifest.bodies[0]!
    const told: Told[] =
      entry.id === id ? [] : [{ code: 'unknown-body', where: 'body', message: `There is no body “${String(id)}”.` }]
    try {
      const body = await wardrobe.openBody(entry)
      const fitting = await wardrobe.fit(body, typeof look === 'string' ? startLook(entry) : look, options.earned)
      const atlas = await atlasOf(wardrobe, body).catch((error: unknown) => {
        told.push(toldOf('atlas-missing', entry.atlas.path, error))
        return null
      })
      const material = options.material?.(atlas) ?? plain(atlas)
      const figure = new DressedFigure(wardrobe, body, fitting, material, options)
      return { figure, told: [...told, ...fitting.told] }
    } catch (error) {
      return { figure: null, told: [...told, toldOf('body-missing', entry.base.path, error)] }
    }
  }

  /**
   * Puts on a look. What is wrong with it is answered, and what is worn now is in `look`. When asked again before a piece
   * has come, the last one asked for is worn. Never throws.
   *
   * @param prefer the slot a player has just changed: what does not go with it is taken off, not it
   */
  async wear(look: unknown, prefer?: string): Promise<Told[]> {
    const asked = ++this.asked
    const fitting = await this.wardrobe.fit(this.body, look, this.earned, prefer)
    if (asked !== this.asked) return fitting.told
    this.fitting = fitting
    this.look = fitting.look
    this.redress()
    return fitting.told
  }

  /** Moves a slider at once, within its limits; nothing is allocated. Answers the value it has now, or null where there is none. */
  setSlider(id: string, value: number): number | null {
    const { sliders } = this.body.entry
    for (let i = 0; i < sliders.length; i++) {
      const { id: own, min, max } = sliders[i]!
      if (own !== id || !Number.isFinite(value)) continue
      const within = Math.min(max, Math.max(min, value))
      this.look.sliders[id] = within
      this.reshape()
      return within
    }
    return null
  }

  /** Gives a color another of its swatches at once. Answers the color it has now, or null where there is none. */
  setColor(id: string, color: string): string | null {
    const own = this.body.entry.colors.find((c) => c.id === id)
    if (!own?.swatches.some((s) => s.color === color)) return own ? this.look.colors[id]! : null
    this.look.colors[id] = color
    this.repaint()
    return color
  }

  /** Which flags of the game are set; counts from the next look on. */
  setEarned(earned: Earned): void {
    this.earned = earned
  }

  setLevel(level: number): void {
    if (!Number.isInteger(level) || level < 0 || level === this.level) return
    this.level = level
    this.redress()
  }

  /** Plays a clip, faded in over some seconds; null stops. Answers whether there is one of that name. */
  play(id: string | null, fade = 0.25): boolean {
    const clip = id === null ? null : this.body.clips.get(id)
    if (id !== null && !clip) return false
    const next = clip ? this.mixer.clipAction(clip) : null
    if (next === this.action) return true
    this.springs?.rest()
    this.action?.fadeOut(fade)
    if (next) {
      const { loop } = this.body.entry.clips.find((c) => c.id === id)!
      next.reset().setLoop(loop ? LoopRepeat : LoopOnce, Infinity)
      next.clampWhenFinished = true
      next.fadeIn(fade).play()
    }
    this.action = next
    return true
  }

  /** Goes on by some seconds: clips, and what swings. */
  update(seconds: number): void {
    const root = this.bones[0]!
    // clips are of the body as it begins: the way of its hips goes by how long the legs are
    root.position.copy(this.rootRest)
    this.springs?.rest()
    this.mixer.update(seconds)
    root.position.sub(this.rootRest).multiplyScalar(this.legs).add(this.rootNow)
    if (!this.springs?.any) return
    this.object.updateWorldMatrix(true, false)
    this.springs.update(seconds, this.object.matrixWorld.elements[13]!)
  }

  /** Lets what swings hang as its clip has it: call it after the figure has been put somewhere else. */
  settle(): void {
    this.springs?.settle()
  }

  /** The colors that something worn in a slot has, or the body itself: places in the manifest's list. */
  colorsIn(slot: string | null): number[] {
    const { entry, piece } = this.body
    const pieces = this.fitting.pieces.filter((p) => entry.slots[entry.options[p.option!]!.slot]!.id === slot)
    const regions = new Set((slot === null ? [piece] : pieces).flatMap((p) => [...p.regions]))
    return [...new Set([...regions].flatMap((r) => entry.regions[r]!.color ?? []))].sort((a, b) => a - b)
  }

  /** How tall it stands at rest, metres. */
  get height(): number {
    return this.mesh.boundingSphere!.radius
  }

  /** Triangles, vertices and bones as they are drawn now. */
  get costs(): { triangles: number; vertices: number; bones: number } {
    const { mesh, bones } = this.assembly
    return { triangles: mesh.indices / 3, vertices: mesh.corners, bones: bones.length }
  }

  /** Frees what the graphics card holds. Materials and atlases stay: other figures of the body share them. */
  dispose(): void {
    this.asked++
    this.mixer.stopAllAction()
    this.mixer.uncacheRoot(this.raised)
    this.object.removeFromParent()
    this.geometry.dispose()
    this.mesh.skeleton?.dispose()
  }

  private redress(): void {
    const { entry, piece } = this.body
    const { assembly, geometry, fitting } = this
    assembly.dress([piece, ...fitting.pieces], this.level)
    const worn = new Set(assembly.bones)
    this.repaint(false)
    this.morph()
    this.lay()
    const { mesh } = assembly
    const attributes = {
      position: [mesh.position, 3, false],
      normal: [mesh.normal, 3, false],
      uv: [mesh.uv, 2, false],
      color: [mesh.color, 3, true],
      skinIndex: [mesh.skinIndex, 4, false],
      skinWeight: [mesh.skinWeight, 4, false],
    } as const
    let grown = geometry.index?.array !== mesh.index
    for (const [name, [array]] of Object.entries(attributes)) grown ||= geometry.getAttribute(name)?.array !== array
    if (grown) {
      // the card keeps no buffer that is too small
      geometry.dispose()
      for (const [name, [array, size, shares]] of Object.entries(attributes))
        geometry.setAttribute(name, new BufferAttribute(array, size, shares))
      geometry.setIndex(new BufferAttribute(mesh.index, 1))
    }
    for (const name of Object.keys(attributes)) geometry.getAttribute(name).needsUpdate = true
    geometry.index!.needsUpdate = true
    geometry.setDrawRange(0, mesh.indices)
    const before = this.mesh.skeleton as Skeleton | undefined
    const same =
      before &&
      before.bones.length === assembly.bones.length &&
      assembly.bones.every((b, i) => before.bones[i] === this.bones[b])
    if (!same) {
      before?.dispose()
      const bones = assembly.bones.map((b) => this.bones[b]!)
      this.mesh.bind(
        new Skeleton(
          bones,
          bones.map(() => new Matrix4()),
        ),
        new Matrix4(),
      )
    }
    this.bindJoints()
    this.springs?.rest()
    this.springs = new Springs(entry, this.bones, worn)
  }

  private reshape(): void {
    this.morph()
    this.lay()
    this.springs?.measure()
    this.bindJoints()
    this.geometry.getAttribute('position').needsUpdate = true
    this.geometry.getAttribute('normal').needsUpdate = true
  }

  private morph(): void {
    const { entry } = this.body
    for (let m = 0; m < entry.morphs.length; m++) this.active[m]![1] = weightOf(entry, m, this.look)
    this.assembly.shape(this.active)
  }

  /** Raises the figure onto its soles and puts the joints where the sliders have them. */
  private lay(): void {
    const { joints, lift } = this.assembly
    const { bones } = this.body.entry
    this.raised.position.y = lift
    for (let b = 0; b < bones.length; b++) {
      const { parent } = bones[b]!
      for (let k = 0; k < 3; k++)
        this.bones[b]!.position.setComponent(k, joints[b * 3 + k]! - (parent < 0 ? 0 : joints[parent * 3 + k]!))
    }
    this.rootNow.copy(this.bones[0]!.position)
    this.rootRest.fromArray(bones[0]!.at)
    this.legs = this.rootRest.y > 0 ? this.rootNow.y / this.rootRest.y : 1
    const { mesh } = this.assembly
    const sphere = this.mesh.boundingSphere!
    let low = Infinity
    let high = -Infinity
    for (let i = 1; i < mesh.corners * 3; i += 3) {
      low = Math.min(low, mesh.position[i]!)
      high = Math.max(high, mesh.position[i]!)
    }
    sphere.center.set(0, (low + high) / 2, 0)
    // room for arms and for what clips do
    sphere.radius = Math.max(0.1, high - low)
  }

  private bindJoints(): void {
    const { joints, bones } = this.assembly
    for (let i = 0; i < bones.length; i++) {
      const b = bones[i]! * 3
      this.mesh.skeleton.boneInverses[i]!.makeTranslation(-joints[b]!, -joints[b + 1]!, -joints[b + 2]!)
    }
  }

  private repaint(send = true): void {
    this.assembly.paintLook(this.look)
    if (!send) return
    this.geometry.getAttribute('uv').needsUpdate = true
    this.geometry.getAttribute('color').needsUpdate = true
  }
}

const atlases = new WeakMap<OpenBody, Promise<Texture>>()
const materials = new WeakMap<Texture, Material>()

/** A body's atlas; the same for all its figures. */
function atlasOf(wardrobe: Wardrobe, body: OpenBody): Promise<Texture> {
  let atlas = atlases.get(body)
  if (!atlas) {
    atlas = loadAtlas(wardrobe, body)
    atlases.set(body, atlas)
    atlas.catch(() => atlases.delete(body))
  }
  return atlas
}

async function loadAtlas(wardrobe: Wardrobe, { entry }: OpenBody): Promise<Texture> {
  const bytes = await wardrobe.bytes(entry.atlas)
  const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }), { colorSpaceConversion: 'none' })
  const texture = new Texture(image)
  texture.flipY = false
  texture.colorSpace = SRGBColorSpace
  // cells are flat and neighbours must not bleed in; pictures want smooth ones
  texture.magFilter = entry.atlas.smooth ? LinearFilter : NearestFilter
  texture.minFilter = texture.magFilter
  texture.generateMipmaps = false
  texture.needsUpdate = true
  return texture
}

function plain(atlas: Texture | null): Material {
  const known = atlas && materials.get(atlas)
  if (known) return known
  const material = new MeshStandardMaterial({ map: atlas, vertexColors: true, roughness: 0.9, metalness: 0 })
  if (atlas) materials.set(atlas, material)
  return material
}
