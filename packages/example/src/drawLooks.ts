import {
  Box3,
  DirectionalLight,
  HemisphereLight,
  PerspectiveCamera,
  Scene,
  SRGBColorSpace,
  Vector3,
  WebGLRenderer,
  type Object3D,
  type SkinnedMesh,
} from 'three'
import {
  DressedFigure,
  lookToText,
  startLook,
  type Earned,
  type Look,
  type Told,
  type Wardrobe,
} from '@idle-tinker/runtime'

/** A look as it is drawn. */
export interface DrawnLook {
  body: string
  text: string
  triangles: number
  picture: string
  told: Told[]
}

/**
 * Draws looks with one renderer and one figure a body; gives one after the other, and stops when nobody asks for more.
 */
export async function* drawLooks(
  wardrobe: Wardrobe,
  looks: Iterable<Look>,
  { width, height, earned }: { width: number; height: number; earned?: Earned },
): AsyncGenerator<DrawnLook> {
  const renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true })
  renderer.outputColorSpace = SRGBColorSpace
  renderer.setSize(width, height)
  const scene = new Scene()
  const key = new DirectionalLight('#fff1d6', 2.4)
  key.position.set(-2, 3, 3)
  scene.add(new HemisphereLight('#ffffff', '#6a6f78', 1.7), key)
  const camera = new PerspectiveCamera(20, width / height, 0.1, 60)
  const figures = new Map<string, DressedFigure>()
  const [box, size, middle] = [new Box3(), new Vector3(), new Vector3()]
  try {
    for (const look of looks) {
      const body = wardrobe.body(look.body)
      if (!body) continue
      let figure = figures.get(body.id)
      if (!figure) {
        const opened = await DressedFigure.open(wardrobe, startLook(body), { ...(earned && { earned }) })
        if (!opened.figure) continue
        figures.set(body.id, (figure = opened.figure))
        figure.play(body.clips.find((c) => c.loop)?.id ?? null, 0)
      }
      const told = await figure.wear(look)
      figure.update(0.2)
      figure.object.rotation.y = 0.4
      scene.add(figure.object)
      // all of it, be it tall or wide
      boxOf(figure.object, box).getSize(size)
      box.getCenter(middle)
      const half = (Math.max(size.y, size.x / camera.aspect) * 1.08) / 2
      const far = half / Math.tan((camera.fov * Math.PI) / 360) + size.z / 2
      camera.position.set(middle.x, middle.y + size.y * 0.06, middle.z + far)
      camera.lookAt(middle)
      renderer.render(scene, camera)
      scene.remove(figure.object)
      yield {
        ...{ body: body.id, told, triangles: figure.costs.triangles },
        text: lookToText(wardrobe.manifest, figure.look, earned),
        picture: renderer.domElement.toDataURL(),
      }
    }
  } finally {
    for (const figure of figures.values()) figure.dispose()
    renderer.dispose()
    renderer.forceContextLoss()
  }
}

/** The box around what is drawn of a figure: its buffers have room for more. Of so many corners one is looked at. */
const EVERY = 5
function boxOf(figure: Object3D, box: Box3): Box3 {
  box.makeEmpty()
  figure.updateMatrixWorld(true)
  const mesh = figure.getObjectByProperty('isSkinnedMesh', true) as SkinnedMesh
  const { index, drawRange } = mesh.geometry
  const point = new Vector3()
  for (let i = 0; i < drawRange.count; i += EVERY)
    box.expandByPoint(mesh.getVertexPosition(index!.getX(i), point).applyMatrix4(mesh.matrixWorld))
  return box
}
