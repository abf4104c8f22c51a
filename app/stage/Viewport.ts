import { ACESFilmicToneMapping, SRGBColorSpace, WebGLRenderer, type Camera, type Scene } from 'three'

/** A scene that is drawn into a canvas of the page whenever it has changed. */
export interface Layer {
  readonly canvas: HTMLCanvasElement
  readonly scene: Scene
  readonly camera: Camera
  /** Moves on to a moment, ms; true if it moves by itself and wants the next frame as well. */
  advance(now: number): boolean
  /** Called after every drawn frame. */
  drawn(): void
  /** Called when no frame has followed the last one for a while. */
  rested(): void
}

/** After this long without a new frame a layer has come to rest, ms. */
const REST = 160
/** Slower than this, ms a frame on average, moving layers are drawn with fewer pixels. */
const SLOW_FRAME = 45
const COARSE = 0.55
/** Pixels around a picture that are cleared with it. */
const MARGIN = 2

interface Shown {
  context: CanvasRenderingContext2D
  /** A frame has been asked for. */
  wanted: boolean
  restTimer: ReturnType<typeof setTimeout> | null
  lastFrame: number
  /** Mean time between frames, ms. */
  pace: number
  coarse: boolean
}

/**
 * Draws everything that is three-dimensional on the page, with one WebGL context for the whole
 * visit. It owns the context, the loop, the quality, and what happens when the context is lost; what
 * is shown are layers, each in a plain canvas of its own, which keeps its last picture whatever
 * becomes of the context.
 */
export class Viewport {
  private readonly renderer: WebGLRenderer
  private readonly layers = new Map<Layer, Shown>()
  private readonly listeners = new Set<(lost: boolean) => void>()
  private width = 1
  private height = 1
  private frame = 0
  private isLost = false

  /** @throws Error if the browser gives no WebGL */
  constructor() {
    this.renderer = new WebGLRenderer({ antialias: true, alpha: true })
    this.renderer.toneMapping = ACESFilmicToneMapping
    this.renderer.outputColorSpace = SRGBColorSpace
    this.renderer.setClearColor(0, 0)
    this.renderer.setScissorTest(true)
    const canvas = this.renderer.domElement
    canvas.addEventListener('webglcontextlost', () => this.setLost(true))
    canvas.addEventListener('webglcontextrestored', () => {
      // a new context knows nothing of the old one's state
      this.renderer.setClearColor(0, 0)
      this.renderer.setScissorTest(true)
      this.setLost(false)
      for (const layer of this.layers.keys()) this.draw(layer)
    })
  }

  /** The context is away: nothing is drawn until the browser gives it back. */
  get lost(): boolean {
    return this.isLost
  }

  /** Told when the context is lost and when it is back; the answer ends that. */
  onLost(listener: (lost: boolean) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  add(layer: Layer): void {
    this.layers.set(layer, {
      context: layer.canvas.getContext('2d')!,
      wanted: false,
      restTimer: null,
      lastFrame: 0,
      pace: 0,
      coarse: false,
    })
    this.draw(layer)
  }

  /** Takes a layer out: it is neither drawn nor moved any more. What is in its scene is its owner's to dispose of. */
  remove(layer: Layer): void {
    const shown = this.layers.get(layer)
    if (shown?.restTimer) clearTimeout(shown.restTimer)
    this.layers.delete(layer)
  }

  /** Asks for a new frame of a layer; however often it is asked, one is drawn. */
  draw(layer: Layer): void {
    const shown = this.layers.get(layer)
    if (!shown) return
    shown.wanted = true
    this.frame ||= requestAnimationFrame(this.tick)
  }

  /** Draws a scene into a canvas now; false while the context is lost. */
  take(scene: Scene, camera: Camera, canvas: HTMLCanvasElement): boolean {
    if (!this.isLost) this.render(scene, camera, canvas, canvas.getContext('2d')!, 1)
    return !this.isLost
  }

  private readonly tick = (now: number): void => {
    this.frame = 0
    for (const [layer, shown] of this.layers) {
      if (!shown.wanted) continue
      shown.wanted = false
      if (layer.advance(now)) this.draw(layer)
      this.adapt(shown, now)
      this.show(layer, shown)
      layer.drawn()
      if (shown.restTimer) clearTimeout(shown.restTimer)
      shown.restTimer = setTimeout(() => this.rest(layer, shown), REST)
    }
  }

  /** While frames follow each other too slowly, a layer is drawn coarser. */
  private adapt(shown: Shown, now: number): void {
    const gap = now - shown.lastFrame
    shown.lastFrame = now
    if (gap > REST) return
    shown.pace = shown.pace * 0.7 + gap * 0.3
    if (shown.pace > SLOW_FRAME) shown.coarse = true
  }

  private rest(layer: Layer, shown: Shown): void {
    shown.pace = 0
    if (shown.coarse) {
      shown.coarse = false
      this.show(layer, shown)
    }
    layer.rested()
  }

  private show(layer: Layer, shown: Shown): void {
    if (!this.isLost) this.render(layer.scene, layer.camera, layer.canvas, shown.context, shown.coarse ? COARSE : 1)
  }

  /** Draws into the lower left corner of the context, which is as large as the largest picture so far, and from there to the canvas. */
  private render(
    scene: Scene,
    camera: Camera,
    canvas: HTMLCanvasElement,
    context: CanvasRenderingContext2D,
    quality: number,
  ): void {
    const w = Math.max(1, Math.round(canvas.width * quality))
    const h = Math.max(1, Math.round(canvas.height * quality))
    if (w + MARGIN > this.width || h + MARGIN > this.height) {
      this.width = Math.max(this.width, w + MARGIN)
      this.height = Math.max(this.height, h + MARGIN)
      this.renderer.setSize(this.width, this.height, false)
    }
    this.renderer.setViewport(0, 0, w, h)
    // a little more than is shown is cleared: what was drawn there before would seep in when the picture is scaled
    this.renderer.setScissor(0, 0, w + MARGIN, h + MARGIN)
    this.renderer.render(scene, camera)
    context.clearRect(0, 0, canvas.width, canvas.height)
    context.drawImage(this.renderer.domElement, 0, this.height - h, w, h, 0, 0, canvas.width, canvas.height)
  }

  private setLost(lost: boolean): void {
    this.isLost = lost
    for (const listener of this.listeners) listener(lost)
  }
}

let viewport: Viewport | null = null
let refused: Error | null = null

/** The one of the page. @throws Error if the browser gives no WebGL */
export function theViewport(): Viewport {
  if (refused) throw refused
  try {
    return (viewport ??= new Viewport())
  } catch (error) {
    // it will give none later either
    throw (refused = error instanceof Error ? error : new Error(String(error)))
  }
}
