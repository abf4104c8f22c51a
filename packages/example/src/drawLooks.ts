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
      const tall = figure.height * 1.12
      const far = tall / 2 / Math.tan((camera.fov * Math.PI) / 360)
      camera.position.set(0, figure.height * 0.56, far)
      camera.lookAt(0, figure.height * 0.5, 0)
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
