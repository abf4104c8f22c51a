import type { OrthographicCamera } from 'three'

/** Lets a camera see so much above and below where it looks, metres, in a picture of a shape. */
export function frameHeight(camera: OrthographicCamera, half: number, width: number, height: number): void {
  camera.top = half
  camera.bottom = -half
  camera.right = (half * width) / height
  camera.left = -camera.right
  camera.near = 0.01
  camera.far = 20
}
