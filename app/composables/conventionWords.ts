import { UNITS, type Convention } from '@idle-tinker/core'

/** A convention's unit and axes in words: “Metres, +Y up, facing +Z”. */
export function axesWords({ unit, up, front, scale = 1 }: Pick<Convention, 'unit' | 'up' | 'front' | 'scale'>): string {
  const axis = (a: string) => a.toUpperCase().replace('-', '−')
  return `${UNITS.find((u) => u.metres === unit)?.name ?? `Units of ${unit} m`}, ${axis(up)} up, facing ${axis(front)}${scale === 1 ? '' : `, ${scale} times as large`}`
}

/** What bones are called, and how they are turned, in words. */
export function bonesWords({ bones: { names, axes = 'unturned', joints = [] } }: Pick<Convention, 'bones'>): string {
  const called = { vrm: 'named by the open VRM standard', numbered: 'numbered', table: 'named as in the game' }[names]
  const turned = { unturned: '', along: ', turned along their length', joints: ', turned as in the game' }[axes]
  const scaled = names === 'table' && joints.some((j) => (j.scale ?? 1) !== 1) ? ', in its own units' : ''
  return `bones ${called}${turned}${scaled}`
}
