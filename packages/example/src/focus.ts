/** What a hand on keys or a gamepad wants. */
export type Move = 'left' | 'right' | 'up' | 'down' | 'take' | 'back' | 'shuffle'

const KEYS: Record<string, Move> = {
  ArrowLeft: 'left',
  ArrowRight: 'right',
  ArrowUp: 'up',
  ArrowDown: 'down',
}
/** Buttons of the standard gamepad (W3C). */
const BUTTONS: Partial<Record<number, Move>> = {
  0: 'take',
  1: 'back',
  3: 'shuffle',
  12: 'up',
  13: 'down',
  14: 'left',
  15: 'right',
}
/** A stick is pushed from here on. */
const PUSHED = 0.6

/** The one of several boxes that lies best in a direction from another; null where none does. */
export function nextTo<T>(
  from: DOMRect,
  boxes: readonly { of: T; rect: DOMRect }[],
  move: 'left' | 'right' | 'up' | 'down',
): T | null {
  const middle = (r: DOMRect) => [r.left + r.width / 2, r.top + r.height / 2] as const
  const [x, y] = middle(from)
  let best: T | null = null
  let least = Infinity
  for (const { of, rect } of boxes) {
    const [dx, dy] = middle(rect).map((v, i) => v - (i === 0 ? x : y)) as [number, number]
    const along = { left: -dx, right: dx, up: -dy, down: dy }[move]
    const across = Math.abs(move === 'left' || move === 'right' ? dy : dx)
    if (along < 4) continue
    // straight ahead before nearer by
    const cost = along + across * 3
    if (cost < least) {
      least = cost
      best = of
    }
  }
  return best
}

/**
 * Moves the focus among all that can be pressed in a place, by arrows and by a gamepad, as on a game's screen: to what lies
 * in that direction. Sliders keep left and right for themselves.
 *
 * @returns takes the listeners away
 */
export function followMoves(place: HTMLElement, on: (move: 'back' | 'shuffle') => void): () => void {
  const step = (move: Move): boolean => {
    if (move === 'back' || move === 'shuffle') {
      on(move)
      return true
    }
    const active = place.contains(document.activeElement) ? (document.activeElement as HTMLElement) : null
    if (move === 'take') {
      active?.click()
      return true
    }
    const all = Array.from(place.querySelectorAll<HTMLElement>('button:not(:disabled), input:not(:disabled)')).filter(
      (e) => e.getClientRects().length > 0,
    )
    const boxes = all.filter((e) => e !== active).map((of) => ({ of, rect: of.getBoundingClientRect() }))
    const next = active ? nextTo(active.getBoundingClientRect(), boxes, move) : all[0]
    next?.focus()
    next?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
    return Boolean(next)
  }
  const keys = (event: KeyboardEvent) => {
    const move = KEYS[event.key]
    if (!move || event.ctrlKey || event.metaKey || event.altKey) return
    const input = event.target instanceof HTMLInputElement ? event.target : null
    if (input?.type === 'text') return
    if (input?.type === 'range' && (move === 'left' || move === 'right')) return
    if (step(move)) event.preventDefault()
  }
  place.addEventListener('keydown', keys)
  const held = new Set<string>()
  let frame = 0
  const look = () => {
    const pads = (navigator.getGamepads?.() ?? []).filter((pad) => pad !== null)
    // nothing is asked while there is none; the browser tells when one comes
    frame = pads.length ? requestAnimationFrame(look) : 0
    for (const pad of pads) {
      const pushed = new Map<string, Move>()
      pad.buttons.forEach((b, i) => {
        const move = BUTTONS[i]
        if (b.pressed && move) pushed.set(`${pad.index} ${i}`, move)
      })
      const [x = 0, y = 0] = pad.axes
      if (Math.abs(x) > PUSHED) pushed.set(`${pad.index} x`, x < 0 ? 'left' : 'right')
      if (Math.abs(y) > PUSHED) pushed.set(`${pad.index} y`, y < 0 ? 'up' : 'down')
      for (const [key, move] of pushed) if (!held.has(key)) step(move)
      for (const key of [...held]) if (key.startsWith(`${pad.index} `) && !pushed.has(key)) held.delete(key)
      for (const key of pushed.keys()) held.add(key)
    }
  }
  const connected = () => {
    if (frame === 0) look()
  }
  addEventListener('gamepadconnected', connected)
  connected()
  return () => {
    cancelAnimationFrame(frame)
    removeEventListener('gamepadconnected', connected)
    place.removeEventListener('keydown', keys)
  }
}
