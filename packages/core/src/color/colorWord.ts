import { Color } from 'three'

const HUES: readonly (readonly [until: number, word: string])[] = [
  [15, 'red'],
  [45, 'orange'],
  [70, 'yellow'],
  [160, 'green'],
  [200, 'teal'],
  [255, 'blue'],
  [290, 'purple'],
  [345, 'pink'],
  [361, 'red'],
]
/** Below this a color is grey; of orange and yellow what is darker than this is brown. */
const GREY = 0.1
const BROWN = 0.42

/** What a person would call a color, in a word or two: “dark blue”. */
export function colorWord(hex: string): string {
  const { h, s, l } = new Color(hex).getHSL({ h: 0, s: 0, l: 0 }, 'srgb')
  if (l < 0.08) return 'black'
  if (l > 0.94) return 'white'
  const shade = l < 0.28 ? 'dark ' : l > 0.74 ? 'light ' : ''
  // what is very light or very dark has little color, however saturated it is said to be
  if (s * (1 - Math.abs(2 * l - 1)) < GREY) return `${shade}grey`
  const hue = h * 360
  if (hue >= 15 && hue < 70 && l < BROWN) return l < 0.2 ? 'dark brown' : 'brown'
  const word = HUES.find(([until]) => hue < until)![1]
  return word === 'red' && l > 0.74 ? 'pink' : `${shade}${word}`
}
