import { BODY_PLANS, mirrorClip, type ClipDef } from '@idle-tinker/core'
import { BASIC } from './basic.ts'

export type Curves = ClipDef['curves']
type Keys = Curves[string]

const [, WALK] = BASIC

/** A clip of figures on two legs that goes along where it is asked for; on the spot, both feet on the ground, where nothing else is said. */
export const clip = (
  id: string,
  name: string,
  duration: number,
  curves: Curves,
  more: Partial<ClipDef> = {},
): ClipDef => ({
  ...{ id, name, plan: 'biped', duration, loop: true, travel: 0, stance: [0, 1], alternate: false, optional: true },
  curves,
  ...more,
})

/** A curve that stays. */
export const still = (value: number): Keys => [[0, value]]

/** From one value to another and back, once a loop: at the beginning, and halfway. */
export const sway = (a: number, b: number, from = 0): Keys =>
  [[from, a] as [number, number], [(from + 0.5) % 1, b] as [number, number]].sort(([p], [q]) => p - q)

/** Values that are held for a while: each from and to a phase. A spline that had but one key there would swing over. */
export const held = (...stays: [from: number, to: number, value: number][]): Keys =>
  stays.flatMap(([from, to, value]) =>
    to - from < 0.05
      ? [[from, value] as [number, number]]
      : [
          [from, value],
          [from + 0.02, value],
          [to - 0.02, value],
          [to, value],
        ],
  )

/** How anybody stands who does nothing: arms that hang, fingers half closed. */
export const STANDS: Curves = {
  'hips.y': still(-0.015),
  'spine.pitch': still(1.5),
  'upperArm.out': still(13),
  'upperArm.swing': still(3),
  'lowerArm.bend': still(17),
  'fingers.curl': still(16),
  'foot.out': still(0.012),
}

/** How the fingers of the right hand are curled: the first, and the others. */
export const rightHand = (first: Keys, others: Keys): Curves => ({
  'rightIndexProximal.curl': first,
  'rightMiddleProximal.curl': others,
  'rightRingProximal.curl': others,
  'rightLittleProximal.curl': others,
})

/** Breathing, over what is said of chest and spine. */
export const breathing = (times: number, lean = 1.5): Curves => {
  const beats = Array.from({ length: times * 2 }, (_, i) => i)
  return {
    'spine.pitch': beats.map((i) => [i / (times * 2), lean + (i % 2 ? 1.4 : 0)]),
    'chest.pitch': beats.map((i) => [i / (times * 2), i % 2 ? -1.6 : 0]),
  }
}

/** The walk with some of its curves larger or smaller, and others instead of its own. */
export function walking(scale: Record<string, number>, instead: Curves = {}): Curves {
  const scaled = Object.entries(WALK.curves).map(([channel, keys]): [string, Keys] => [
    channel,
    keys.map(([phase, value]) => [phase, value * (scale[channel] ?? 1)]),
  ])
  return { ...Object.fromEntries(scaled), ...instead }
}

/** The same clip on the other side. */
export const mirrored = (def: ClipDef, id: string, name: string): ClipDef => ({
  ...mirrorClip(def, BODY_PLANS.get(def.plan)!),
  ...{ id, name },
})

/** To and fro four times, from a phase on, less each time. */
export function shake(from: number, by: number): Curves[string] {
  const beat = 0.055
  const swings = [1, -1, 0.9, -0.9, 0.6, -0.5, 0.2].map((share, i): [number, number] => [
    Number((from + beat * (i + 1)).toFixed(3)),
    share * by,
  ])
  return [[0, 0], [from, 0], ...swings, [Number((from + beat * 8).toFixed(3)), 0]]
}
