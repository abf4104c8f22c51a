import {
  DressedFigure,
  lookFromText,
  lookToText,
  nothingEarned,
  shuffleLook,
  startLook,
  tryOn,
  Wardrobe,
  type BodyEntry,
  type Earned,
  type Look,
  type ReadFile,
  type SlotEntry,
  type Told,
} from '@idle-tinker/runtime'
import { h } from './dom.ts'
import { followMoves } from './focus.ts'
import { Mirror } from './Mirror.ts'
import { Steps } from './Steps.ts'

export interface RoomOptions {
  /** Where looks are hung: one text a hook. Nothing is kept where it is not said. */
  keep?: Pick<Storage, 'getItem' | 'setItem'>
  /** A look to begin with, as a text. */
  look?: string
  /** Which flags of the game are set. */
  earned?: Earned
  /** What lots are drawn by; another every time where it is not said. */
  seed?: number
  /** Called with what is worn, as a text and whole, whenever it changes. */
  onLook?: (text: string, look: Look) => void
}

const HOOKS = 3

/**
 * A dressing room in a sail loft: the mirror in the middle, what is worn pegged to a line above it, what could be
 * worn in the chest below, dye pots on the left and cleats for the build on the right. It knows the package and its
 * runtime, and nothing of the workshop.
 */
export class DressingRoom {
  readonly element: HTMLElement
  private readonly line = h('div', { class: 'line', role: 'tablist', 'aria-label': 'What is worn' })
  private readonly chest = h('div', { class: 'chest', role: 'group', 'aria-label': 'What could be worn' })
  private readonly pots = h('div', { class: 'pots', role: 'group', 'aria-label': 'Dyes' })
  private readonly cleats = h('div', { class: 'cleats', role: 'group', 'aria-label': 'Build' })
  private readonly tools = h('div', { class: 'tools', role: 'group', 'aria-label': 'Room' })
  private readonly slate = h('p', { class: 'slate', role: 'status' })
  private readonly mirror: Mirror
  private readonly icons = new Map<string, string>()
  private readonly stops: (() => void)[] = []
  private steps: Steps<string> | null = null
  private figure: DressedFigure | null = null
  private slot = ''
  private clip: string | null = null
  private earned: Earned
  private gone = false
  private seed: number
  /** Looks that have been asked for. */
  private entering = 0

  private constructor(
    place: HTMLElement,
    private readonly wardrobe: Wardrobe,
    private readonly options: RoomOptions,
  ) {
    this.earned = options.earned ?? nothingEarned
    this.seed = options.seed ?? 1 + Math.floor(Math.random() * 2_147_483_645)
    const glass = h('div', { class: 'glass' })
    const frame = h('div', { class: 'mirror' }, glass)
    this.element = h(
      'section',
      { class: 'sail-loft', 'aria-label': 'Dressing room' },
      h('div', { class: 'loft' }, this.line, this.pots, frame, this.cleats, this.chest, this.tools, this.slate),
    )
    // for whoever looks at the page from outside, as its journeys do
    Object.assign(this.element, { room: this })
    place.append(this.element)
    this.mirror = new Mirror(glass)
    this.stops.push(followMoves(this.element, (move) => (move === 'back' ? this.undo() : this.shuffle())))
    const keys = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
      event.preventDefault()
      // the workshop around it has steps of its own
      event.stopPropagation()
      if (event.shiftKey) this.redo()
      else this.undo()
    }
    this.element.addEventListener('keydown', keys)
  }

  /** Opens a package and puts the room into a place. Null, and why, where it cannot be opened. */
  static async open(
    place: HTMLElement,
    from: string | ReadFile,
    options: RoomOptions = {},
  ): Promise<{ room: DressingRoom | null; told: Told[] }> {
    const { wardrobe, told } = await Wardrobe.open(from)
    if (!wardrobe) return { room: null, told }
    let room: DressingRoom
    try {
      room = new DressingRoom(place, wardrobe, options)
    } catch (error) {
      // a browser that draws nothing in space
      place.replaceChildren()
      const message = error instanceof Error ? error.message : String(error)
      return { room: null, told: [...told, { code: 'no-graphics', where: 'mirror', message }] }
    }
    const asked = options.look === undefined ? null : lookFromText(wardrobe.manifest, options.look)
    const problems = [
      ...(asked?.told ?? []),
      ...(await room.enter(asked?.look ?? startLook(wardrobe.manifest.bodies[0]!))),
    ]
    if (!room.figure) {
      room.dispose()
      return { room: null, told: problems }
    }
    room.steps = new Steps(room.text, (a, b) => a === b)
    room.draw()
    room.tell(problems)
    return { room, told: problems }
  }

  /** What is worn, as a short text. */
  get text(): string {
    return lookToText(this.wardrobe.manifest, this.figure!.look, this.earned)
  }

  get look(): Look {
    return this.figure!.look
  }

  /** What is drawn, and what the graphics card holds. */
  get costs(): { triangles: number; bones: number; geometries: number; textures: number; calls: number } {
    return { ...this.figure!.costs, ...this.mirror.held }
  }

  /** Puts on a look; a step to go back from. */
  async wear(look: Look, prefer?: string): Promise<void> {
    const told = await this.put(look, prefer)
    if (this.gone) return
    this.step()
    this.tell(told)
  }

  shuffle(): void {
    const body = this.body
    void this.wear(shuffleLook(body, (this.seed = (this.seed * 16_807) % 2_147_483_647), { earned: this.earned }))
  }

  undo(): void {
    void this.back((steps) => steps.undo())
  }

  redo(): void {
    void this.back((steps) => steps.redo())
  }

  /** Says which flags of the game are set. */
  setEarned(earned: (flag: string) => boolean): void {
    this.earned = earned
    this.figure?.setEarned(earned)
    this.draw()
  }

  dispose(): void {
    this.gone = true
    for (const stop of this.stops) stop()
    this.figure?.dispose()
    this.mirror.dispose()
    for (const url of this.icons.values()) URL.revokeObjectURL(url)
    this.element.remove()
  }

  private get body(): BodyEntry {
    return this.wardrobe.body(this.figure!.look.body)!
  }

  /** Puts on a look, of whichever body. */
  private async put(look: Look, prefer?: string): Promise<Told[]> {
    // whoever is still on the way in comes too late
    const asked = ++this.entering
    if (this.figure?.look.body !== look.body) return this.enter(look, asked)
    const told = await this.figure.wear(look, prefer)
    if (!this.gone) {
      this.mirror.look()
      this.draw()
    }
    return told
  }

  /** Another body comes in; the one that is there stays until it has. */
  private async enter(look: Look, asked = this.entering): Promise<Told[]> {
    const { figure, told } = await DressedFigure.open(this.wardrobe, look, { earned: this.earned })
    if (!figure) return told
    // of two asked in one after the other the last one stays, whichever is loaded first
    if (this.gone || asked !== this.entering) {
      figure.dispose()
      return told
    }
    const before = this.figure
    this.figure = figure
    const { slots, clips } = this.body
    this.slot = slots.find((s) => s.chosen)?.id ?? ''
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches
    this.clip = still ? null : (clips.find((c) => c.loop)?.id ?? null)
    this.mirror.show(figure, this.clip)
    before?.dispose()
    if (this.steps) this.draw()
    return told
  }

  private async back(to: (steps: Steps<string>) => string): Promise<void> {
    if (!this.steps) return
    const { look } = lookFromText(this.wardrobe.manifest, to(this.steps))
    await this.put(look)
    this.changed()
  }

  private step(): void {
    this.steps?.take(this.text)
    this.changed()
  }

  private changed(): void {
    if (this.gone) return
    this.options.onLook?.(this.text, structuredClone(this.look))
    this.drawTools()
  }

  private tell(told: readonly Told[]): void {
    this.slate.textContent = told.map((t) => t.message).join(' ')
  }

  private draw(): void {
    const focused = (document.activeElement as HTMLElement | null)?.dataset.test
    this.drawLine()
    this.drawChest()
    this.drawPots()
    this.drawCleats()
    this.drawTools()
    // what had the focus is a new element of the same name
    if (focused && !this.element.contains(document.activeElement))
      this.element.querySelector<HTMLElement>(`[data-test="${CSS.escape(focused)}"]`)?.focus()
  }

  private drawLine(): void {
    const { options, slots } = this.body
    this.line.replaceChildren(
      ...slots
        .filter((s) => s.chosen && s.options.length > (s.needed ? 1 : 0))
        .map((slot) => {
          const worn = options.find((o) => o.id === this.look.parts[slot.id])
          return h(
            'button',
            {
              ...{ type: 'button', class: 'peg', role: 'tab', 'data-test': `peg-${slot.id}` },
              'aria-selected': String(slot.id === this.slot),
              onclick: () => {
                this.slot = slot.id
                this.draw()
              },
            },
            worn ? this.picture(worn.icon) : h('span', { class: 'bare' }, '–'),
            h('span', { class: 'name' }, slot.name),
          )
        }),
    )
  }

  private drawChest(): void {
    const slot = this.body.slots.find((s) => s.id === this.slot)
    if (!slot) return this.chest.replaceChildren()
    const cards = slot.options.map((o) => this.card(slot, o))
    if (!slot.needed) cards.unshift(this.nothingCard(slot))
    this.chest.replaceChildren(h('h2', {}, slot.name), h('div', { class: 'cards' }, ...cards))
  }

  private nothingCard(slot: SlotEntry): HTMLElement {
    const on = this.look.parts[slot.id] === null
    return h(
      'button',
      {
        ...{ type: 'button', class: 'card', 'aria-pressed': String(on), 'data-test': 'card-nothing' },
        onclick: () => void this.choose(slot.id, null),
      },
      h('span', { class: 'bare' }, '–'),
      h('span', { class: 'name' }, 'Nothing'),
    )
  }

  private card(slot: SlotEntry, place: number): HTMLElement {
    const { options } = this.body
    const { id, name, icon, earned } = options[place]!
    const locked = earned !== undefined && !this.earned(earned)
    const on = this.look.parts[slot.id] === id
    const { told } = locked || on ? { told: [] } : tryOn(this.body, this.look, slot.id, id, this.earned)
    const also = told.map((t) => t.message).join(' ')
    const card = h(
      'button',
      {
        ...{ type: 'button', class: 'card', 'aria-pressed': String(on), disabled: locked },
        'data-test': `card-${id.split('/').at(-1)!}`,
        title: locked ? 'To be earned first' : also,
        onclick: () => void this.choose(slot.id, id),
      },
      this.picture(icon),
      h('span', { class: 'name' }, name),
    )
    if (locked) card.append(h('span', { class: 'mark' }, 'to be earned'))
    else if (also) card.append(h('span', { class: 'mark' }, 'swaps'))
    return card
  }

  private choose(slot: string, option: string | null): Promise<void> {
    return this.wear({ ...this.look, parts: { ...this.look.parts, [slot]: option } }, slot)
  }

  private drawPots(): void {
    const { colors } = this.body
    const worn = this.figure!.colorsIn(this.slot)
    // what nothing in the chest is dyed with is skin and such: it is always at hand
    const shown = colors.filter((_, i) => worn.includes(i) || this.figure!.colorsIn(null).includes(i))
    this.pots.replaceChildren(
      h('h2', {}, 'Dyes'),
      ...shown.map(({ id, name, swatches }) =>
        h(
          'div',
          { class: 'dye', role: 'radiogroup', 'aria-label': name },
          h('span', { class: 'name' }, name),
          h(
            'div',
            { class: 'row' },
            ...swatches.map(({ color }, i) =>
              h('button', {
                ...{ type: 'button', class: 'pot', role: 'radio', style: `--dye: ${color}` },
                'aria-checked': String(this.look.colors[id] === color),
                'aria-label': `${name} ${i + 1}`,
                'data-test': `pot-${id}-${i}`,
                onclick: () => {
                  this.figure!.setColor(id, color)
                  this.mirror.look()
                  this.draw()
                  this.step()
                },
              }),
            ),
          ),
        ),
      ),
    )
  }

  private drawCleats(): void {
    const { sliders, expressions } = this.body
    this.cleats.replaceChildren(
      h('h2', {}, 'Build'),
      ...sliders.map(({ id, name, min, max }) => {
        const input = h('input', {
          ...{ type: 'range', min: String(min), max: String(max), step: 'any' },
          'data-test': `cleat-${id}`,
          oninput: () => {
            this.figure!.setSlider(id, input.valueAsNumber)
            this.mirror.look()
          },
          onchange: () => this.step(),
        })
        input.valueAsNumber = this.look.sliders[id]!
        return h('label', { class: 'cleat' }, h('span', { class: 'name' }, name), input)
      }),
      h('h2', {}, 'Mood'),
      h(
        'div',
        { class: 'moods', role: 'radiogroup', 'aria-label': 'Mood' },
        ...[{ id: null, name: 'At rest' }, ...expressions].map(({ id, name }) =>
          h(
            'button',
            {
              ...{ type: 'button', role: 'radio', 'aria-checked': String(this.look.expression === id) },
              'data-test': `mood-${id ?? 'rest'}`,
              onclick: () => void this.wear({ ...this.look, expression: id }),
            },
            name,
          ),
        ),
      ),
    )
  }

  private drawTools(): void {
    const { bodies } = this.wardrobe.manifest
    const button = (name: string, test: string, on: () => void, disabled = false, pressed?: boolean) =>
      h(
        'button',
        {
          ...{ type: 'button', 'data-test': test, disabled, onclick: on },
          ...(pressed !== undefined && { 'aria-pressed': String(pressed) }),
        },
        name,
      )
    const { keep } = this.options
    this.tools.replaceChildren(
      ...(bodies.length > 1
        ? bodies.map((b) =>
            button(b.name, `body-${b.id}`, () => void this.wear(startLook(b)), false, b.id === this.look.body),
          )
        : []),
      ...this.body.looks.map(({ id, name, look }) =>
        button(name, `look-${id}`, () => void this.wear({ ...look, body: this.body.id })),
      ),
      button('Draw lots', 'shuffle', () => this.shuffle()),
      button('Back', 'undo-look', () => this.undo(), !this.steps?.canUndo),
      button('Again', 'redo-look', () => this.redo(), !this.steps?.canRedo),
      button('Turn', 'turn', () => this.mirror.turnBy(Math.PI / 4)),
      ...this.body.clips.map((c) =>
        button(
          c.name,
          `clip-${c.id}`,
          () => {
            this.clip = this.clip === c.id ? null : c.id
            this.mirror.play(this.clip)
            this.drawTools()
          },
          false,
          this.clip === c.id,
        ),
      ),
      ...(keep ? Array.from({ length: HOOKS }, (_, i) => this.hookFor(i, keep, button)) : []),
    )
  }

  /** A hook: what is worn is hung on it, or taken from it. */
  private hookFor(
    i: number,
    keep: NonNullable<RoomOptions['keep']>,
    button: (name: string, test: string, on: () => void) => HTMLElement,
  ): HTMLElement {
    const hung = keep.getItem(this.hook(i))
    const hang = (text: string, said: string) => () => {
      try {
        keep.setItem(this.hook(i), text)
        this.slate.textContent = said
      } catch {
        // full, or forbidden
        this.slate.textContent = `Hook ${i + 1} does not hold: this browser keeps nothing more.`
      }
      this.drawTools()
    }
    if (!hung) return button(`Hang on hook ${i + 1}`, `hang-${i + 1}`, hang(this.text, `It hangs on hook ${i + 1}.`))
    return h(
      'span',
      { class: 'hook' },
      button(`Take from hook ${i + 1}`, `take-${i + 1}`, () => this.take(hung)),
      button('Clear', `clear-${i + 1}`, hang('', `Hook ${i + 1} is free.`)),
    )
  }

  private hook(i: number): string {
    return `${this.wardrobe.manifest.id} hook ${i + 1}`
  }

  private take(text: string): void {
    const { look, told } = lookFromText(this.wardrobe.manifest, text)
    // a text that is no look is told, and what is worn stays
    if (told.some((t) => t.where === 'text')) return this.tell(told)
    void this.wear(look).then(() => told.length && this.tell(told))
  }

  private picture(file: { path: string; bytes: number }): HTMLElement {
    const image = h('img', { alt: '', draggable: 'false' })
    const known = this.icons.get(file.path)
    if (known) image.src = known
    else
      this.wardrobe.bytes(file).then(
        (bytes) => {
          if (this.gone) return
          const url = this.icons.get(file.path) ?? URL.createObjectURL(new Blob([bytes], { type: 'image/png' }))
          this.icons.set(file.path, url)
          image.src = url
        },
        // the name is there in any case
        () => image.classList.add('missing'),
      )
    return image
  }
}
