import { describe, expect, it } from 'vitest'
import { BLINK, lidsAt, untilBlink } from './blinking.ts'

describe('a blink', () => {
  it('shuts the eyes wholly, sooner than it opens them, and is over', () => {
    const shares = Array.from({ length: BLINK + 20 }, (_, ms) => lidsAt(ms))
    expect([shares[0], Math.max(...shares), shares.at(-1)]).toEqual([0, 1, 0])
    const [shut, opens] = [shares.indexOf(1), shares.lastIndexOf(1)]
    expect(opens - shut).toBeGreaterThan(20)
    expect(BLINK - opens).toBeGreaterThan(shut)
    // a frame that is drawn late
    expect([lidsAt(-5), lidsAt(5_000)]).toEqual([0, 0])
  })

  it('comes every few seconds, never at one beat', () => {
    expect([untilBlink(() => 0), untilBlink(() => 0.5)]).toEqual([2200, 4350])
  })
})
