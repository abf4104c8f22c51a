import { DirectionalLight, HemisphereLight, Scene } from 'three'

/** The one light of the house: key from the upper left, cool fill, a rim from behind, warm ground. */
export function addLight(scene: Scene): void {
  const key = new DirectionalLight('#fff0dc', 2.5)
  key.position.set(-2.2, 3.1, 3)
  const fill = new DirectionalLight('#b8d4ee', 0.75)
  fill.position.set(3, 1, 2)
  const rim = new DirectionalLight('#ffffff', 1.1)
  rim.position.set(1.2, 2, -3.4)
  scene.add(key, fill, rim, new HemisphereLight('#dfeaf5', '#b59a7c', 1.15))
}
