import { UNITS, type Convention } from '@idle-tinker/core'

/** A convention's unit and axes in words: “Metres, +Y up, facing +Z”. */
export function axesWords({ unit, up, front }: Pick<Convention, 'unit' | 'up' | 'front'>): string {
  const axis = (a: string) => a.toUpperCase().replace('-', '−')
  return `${UNITS.find((u) => u.metres === unit)?.name ?? `Units of ${unit} m`}, ${axis(up)} up, facing ${axis(front)}`
}

/** What bones are called, and how they are turned, in words. */
export function bonesWords({ bones: { names, axes = 'unturned' } }: Pick<Convention, 'bones'>): string {
  const called = { vrm: 'named by the open VRM standard', numbered: 'numbered', table: 'named as in the game' }[names]
  const turned = { unturned: '', along: ', turned along their length', joints: ', turned as in the game' }[axes]
  return `bones ${called}${turned}`
}
