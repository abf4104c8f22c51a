import type { CorrectiveSpec } from '../folk/sliders/whole.ts'
import { times, type SliderSpec } from '../folk/sliders/fields.ts'

/**
 * What makes every other slider as much smaller as the young are: a movement at the lower end of `years`.
 *
 * @param size how large they are, against the grown
 * @param spent what their youth has used up already, by slider and end: so much of it is left to the slider
 */
export const smallerWith = (
  young: string,
  sliders: readonly SliderSpec[],
  size: number,
  spent: Readonly<Record<string, number>> = {},
): CorrectiveSpec[] =>
  sliders
    .filter((s) => s.id !== 'years')
    .flatMap((s) =>
      (['up', 'down'] as const).flatMap((end): CorrectiveSpec[] => {
        const move = s[end]
        if (!move) return []
        const when: CorrectiveSpec['when'] = [
          { slider: 'years', end: 'down' },
          { slider: s.id, end },
        ]
        return [{ id: `${young} ${s.id} ${end}`, when, move: times(move, (spent[`${s.id} ${end}`] ?? size) - 1) }]
      }),
    )
