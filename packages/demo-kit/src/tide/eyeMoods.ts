import { face, mood, type Expressions } from '../folk/expressions.ts'
import { times, type Field, type SliderSpec } from '../folk/sliders/fields.ts'

/**
 * How the eyes of a creature move: the pieces that see do most of it, the skin above them a little.
 *
 * @param brow how that skin rises
 */
export function eyeMovements(brow: Field): SliderSpec[] {
  const move = (id: string, name: string, ends: [string, string], up: number, down?: number): SliderSpec => ({
    id,
    name,
    group: 'moving',
    ends,
    up: times(brow, up),
    ...(down === undefined ? { range: [0, 1] } : { down: times(brow, down) }),
  })
  return [
    move('blink', 'Lids', ['open', 'shut'], -0.5),
    move('wide', 'Eyes wide', ['at rest', 'wide'], 0.8),
    move('lid-frown', 'Lids frowning', ['at rest', 'frowning'], -0.9),
    move('lid-sorrow', 'Lids drooping', ['at rest', 'drooping'], 0.5),
    move('gaze-side', 'Look to the side', ['to their right', 'to their left'], 0.2, -0.2),
    move('gaze-up', 'Look up or down', ['down', 'up'], 0.4, -0.4),
  ]
}

/** What creatures say with their eyes alone. */
export const EYE_MOODS: Expressions = [
  mood('mild', 'Mild', { 'lid-sorrow': 0.5, blink: 0.15 }, 'happy'),
  mood('startled', 'Startled', { wide: 1 }, 'surprised'),
  mood('wary', 'Wary', { 'lid-frown': 0.7, blink: 0.2, 'gaze-side': [0.5, 0.5] }),
  mood('cross', 'Cross', { 'lid-frown': 1 }, 'angry'),
  mood('drowsy', 'Drowsy', { blink: 0.6, 'lid-sorrow': 0.3, 'gaze-up': -0.3 }, 'relaxed'),
  mood('mournful', 'Mournful', { 'lid-sorrow': 1, 'gaze-up': -0.4 }, 'sad'),
  face('blink-both', 'Blink', { blink: 1 }, 'blink'),
  face('blink-left', 'Blink, left', { blink: [1, 0] }, 'blinkLeft'),
  face('blink-right', 'Blink, right', { blink: [0, 1] }, 'blinkRight'),
  face('look-up', 'Look up', { 'gaze-up': 1 }, 'lookUp'),
  face('look-down', 'Look down', { 'gaze-up': -1 }, 'lookDown'),
  face('look-left', 'Look left', { 'gaze-side': 1 }, 'lookLeft'),
  face('look-right', 'Look right', { 'gaze-side': -1 }, 'lookRight'),
]
