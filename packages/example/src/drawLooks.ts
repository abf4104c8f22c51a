import { DirectionalLight, HemisphereLight, PerspectiveCamera, Scene, SRGBColorSpace, WebGLRenderer } from 'three'
import {
  DressedFigure,
  lookToText,
  startLook,
  type Earned,
  type Look,
  type Told,
  type Wardrobe,
} from '@idle-tinker/runtime'
import { extentOf } from './extent.ts'

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
      // all of it, be it tall or wide, from whatever side
      const { low, high, reach } = extentOf(figure.object)
      const half = Math.max((high - low) * 0.56, (reach * 1.05) / camera.aspect)
      const middle = (low + high) / 2
      const far = half / Math.tan((camera.fov * Math.PI) / 360)
      camera.position.set(0, middle + half * 0.12, far)
      camera.lookAt(0, middle, 0)
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
