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
/** What is held is taken once more after so long, and then again and again, ms. */
const AGAIN = { first: 380, then: 90 }
/** A slider goes so far of its way at once. */
const SLIDE = 0.04

/** Moves that go on while they are held. */
const WAYS: ReadonlySet<Move> = new Set(['left', 'right', 'up', 'down'])

const isSlider = (e: HTMLElement): e is HTMLInputElement => e instanceof HTMLInputElement && e.type === 'range'

/** Moves a slider a little on; whoever let it do so says when it is let go. */
function slide(slider: HTMLInputElement, move: 'left' | 'right'): HTMLInputElement {
  const [least, most] = [Number(slider.min), Number(slider.max)]
  const by = (most - least) * SLIDE * (move === 'left' ? -1 : 1)
  slider.valueAsNumber = Math.min(most, Math.max(least, slider.valueAsNumber + by))
  slider.dispatchEvent(new Event('input', { bubbles: true }))
  return slider
}

type Way = 'left' | 'right' | 'up' | 'down'

/** What can be pressed: its box, and that of the group it is in; what has one group is together. */
export interface Box<T> {
  of: T
  rect: DOMRect
  group: DOMRect
}

/** How far a box lies in a direction from another, from edge to edge, and how far aside it is; 0 aside where they overlap. */
function awayFrom(from: DOMRect, to: DOMRect, way: Way): { along: number; aside: number } {
  const gap = (a: number, b: number, c: number, d: number) => Math.max(0, a - d, c - b)
  const level = way === 'left' || way === 'right'
  const along = {
    left: from.left - to.right,
    right: to.left - from.right,
    up: from.top - to.bottom,
    down: to.top - from.bottom,
  }[way]
  const aside = level ? gap(from.top, from.bottom, to.top, to.bottom) : gap(from.left, from.right, to.left, to.right)
  return { along, aside }
}

/** Boxes of a row may overlap by so much, pixels. */
const OVERLAP = 4

/** Of several what lies best in a direction: straight ahead before nearer by. */
function best<T>(from: DOMRect, all: readonly T[], rectOf: (one: T) => DOMRect, way: Way): T | null {
  let found: T | null = null
  let least = Infinity
  for (const one of all) {
    const { along, aside } = awayFrom(from, rectOf(one), way)
    const cost = Math.max(0, along) + aside * 3
    if (along < -OVERLAP || cost >= least) continue
    least = cost
    found = one
  }
  return found
}

/**
 * What a push in a direction goes to: what is straight ahead in the same group, else into the next group that way, else to
 * what of the same group lies aside; null where nothing does.
 */
export function nextTo<T>({ rect, group }: Omit<Box<T>, 'of'>, boxes: readonly Box<T>[], way: Way): T | null {
  const own = boxes.filter((b) => b.group === group)
  const ahead = own.filter((b) => awayFrom(rect, b.rect, way).aside === 0)
  const straight = best(rect, ahead, (b) => b.rect, way)
  if (straight) return straight.of
  const groups = [...new Set(boxes.map((b) => b.group))].filter((g) => g !== group)
  const next = best(rect, groups, (g) => g, way)
  const inside = next && boxes.filter((b) => b.group === next)
  // of a group that was gone into, the nearest is not always farther that way
  const nearest = inside?.reduce((a, b) => (distance(rect, b.rect) < distance(rect, a.rect) ? b : a))
  return (nearest ?? best(rect, own, (b) => b.rect, way))?.of ?? null
}

const distance = (a: DOMRect, b: DOMRect) =>
  Math.hypot(a.left + a.width / 2 - b.left - b.width / 2, a.top + a.height / 2 - b.top - b.height / 2)

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
    if (active && isSlider(active) && (move === 'left' || move === 'right')) {
      slid = slide(active, move)
      return true
    }
    if (move === 'take') {
      active?.click()
      return true
    }
    const all = Array.from(place.querySelectorAll<HTMLElement>('button:not(:disabled), input:not(:disabled)')).filter(
      (e) => e.getClientRects().length > 0,
    )
    const groups = new Map<Element, DOMRect>()
    const boxOf = (of: HTMLElement): Box<HTMLElement> => {
      const around = of.closest('[role="group"], [role="tablist"]') ?? place
      const group = groups.get(around) ?? around.getBoundingClientRect()
      groups.set(around, group)
      return { of, rect: of.getBoundingClientRect(), group }
    }
    const boxes = all.filter((e) => e !== active).map(boxOf)
    const next = active ? nextTo(boxOf(active), boxes, move) : all[0]
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
  /** What is held on a gamepad, and when it is taken again. */
  const held = new Map<string, number>()
  let frame = 0
  /** A slider that was moved and not let go. */
  let slid: HTMLInputElement | null = null
  const letGo = () => {
    slid?.dispatchEvent(new Event('change', { bubbles: true }))
    slid = null
  }
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
      const now = performance.now()
      for (const [key, move] of pushed) {
        const again = held.get(key)
        if (again !== undefined && (now < again || !WAYS.has(move))) continue
        held.set(key, now + (again === undefined ? AGAIN.first : AGAIN.then))
        step(move)
      }
      for (const key of held.keys()) if (key.startsWith(`${pad.index} `) && !pushed.has(key)) held.delete(key)
    }
    // one that was taken away holds nothing
    for (const key of held.keys()) if (!pads.some((pad) => key.startsWith(`${pad.index} `))) held.delete(key)
    if (held.size === 0) letGo()
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
