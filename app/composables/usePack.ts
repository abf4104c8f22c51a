import {
  isMendable,
  PICTURE_SIDE,
  refOf,
  slotsFor,
  SURE,
  THE_BODY,
  type Mendable,
  type PlacingGiven,
} from '@idle-tinker/core'
import { useDebounceFn } from '@vueuse/core'
import { useProject } from '../stores/project'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import type { PackedPiece, SortedPack } from '../workers/protocol'
import { contentsOf, usePackWorker } from './usePackWorker'

/** Loose models that were brought in, in a worker of their own that ends with them. */
export function usePack(body: Ref<string>) {
  const project = useProject()
  const sorted = shallowRef<SortedPack | null>(null)
  const { problems, busy, expect, work, stop, isRead, setRead } = usePackWorker()
  const given = ref<PlacingGiven>({})
  /** What the person has chosen: piece to slot; empty for nothing. */
  const chosen = ref(new Map<string, string>())
  /** Piece to what the person calls it. */
  const names = ref(new Map<string, string>())
  /** What is taken apart and joined again; null as long as a person has said nothing. */
  const arrangement = ref<{ apart: string[]; joined: string[][] } | null>(null)
  /** Whether the pack brings a body of its own; null as long as a person has said nothing. */
  const own = ref<boolean | null>(null)
  /** The longest side of pictures that are taken along, pixels; 0 for none. */
  const pictures = ref(PICTURE_SIDE)
  const isOwn = computed(() => sorted.value?.figure != null && (own.value ?? sorted.value.figure.likely))
  /** Piece to what of it is mended; to begin with all that can be. */
  const mends = ref(new Map<string, ReadonlySet<Mendable>>())

  let files: readonly File[] = []
  /** What is shown now: another body has other slots, other files other faults. */
  let shown: { files: readonly File[]; body: string } | null = null

  async function sort(): Promise<void> {
    const fresh = !isRead()
    const answer = await work(fresh ? 'Reading and sorting …' : 'Sorting …', async () => {
      const worker = workshop('pack')
      if (fresh) await worker.loadKits(plain(project.addresses), location.origin)
      return worker.sortPack({
        body: refOf(body.value, ''),
        files: fresh ? await contentsOf(files) : null,
        given: { ...given.value },
        arrangement: plain(arrangement.value),
      })
    })
    if (!answer) return
    setRead(answer.sorted !== null)
    problems.value = answer.problems
    sorted.value = answer.sorted
    // what a person has chosen stands, however the models are turned and however often they are read
    if (shown?.body !== body.value || shown.files !== files) chosen.value = new Map()
    if (shown?.files !== files) {
      names.value = new Map()
      mendAll()
    }
    shown = answer.sorted && { files, body: body.value }
  }
  const soon = useDebounceFn(() => void sort(), 50)
  /** Sorts what lies otherwise now. Until then no kit is made: it would be of what was. */
  function again(): void {
    expect('Sorting …')
    void soon()
  }

  /** Takes up other files, about which nothing is known yet. */
  function open(next: readonly File[]): void {
    files = next
    setRead(false)
    given.value = {}
    arrangement.value = own.value = null
    sorted.value = null
    void sort()
  }
  function give(more: PlacingGiven): void {
    given.value = { ...given.value, ...more }
    again()
  }
  const arrangedNow = () => {
    const { apart, joined } = arrangement.value ?? { apart: sorted.value?.apart ?? [], joined: [] }
    return { apart: [...apart], joined: joined.map((ids) => [...ids]) }
  }
  /** Takes a piece apart into what it is of, or makes it whole again. */
  function setApart(piece: string, on: boolean): void {
    const { apart, joined } = arrangedNow()
    const others = apart.filter((id) => id !== piece)
    arrangement.value = {
      apart: on ? [...others, piece] : others,
      joined: joined.filter((ids) => !ids[0]!.startsWith(`${piece}/`)),
    }
    again()
  }
  /** Joins bits of one piece. */
  function join(ids: readonly string[]): void {
    const { apart, joined } = arrangedNow()
    const group = new Set(ids)
    // those that were joined with one of them before come along
    for (const before of joined) if (before.some((id) => group.has(id))) for (const id of before) group.add(id)
    const rest = joined.filter((before) => !before.some((id) => group.has(id)))
    arrangement.value = { apart, joined: [...rest, [...group]] }
    again()
  }
  /** The kit that is made of it, as a zip; null where it cannot be, which is told. */
  async function make(id: string, name: string, slots: [piece: string, slot: string][]): Promise<Uint8Array | null> {
    // it was stopped meanwhile, or its worker has ended
    if (!isRead()) await sort()
    const mend = [...mends.value].map(([piece, codes]) => [piece, [...codes]] as const)
    const made = await work('Making the kit …', () =>
      workshop('pack').packKit({
        ...{ id, name, slots, mend, own: isOwn.value, pictures: pictures.value },
        names: [...names.value],
        sure: surePieces(),
      }),
    )
    if (made) problems.value = made.problems
    return made?.zip ?? null
  }

  function choose(ids: Iterable<string>, slot: string): void {
    const next = new Map(chosen.value)
    for (const id of ids) next.set(id, slot)
    chosen.value = next
  }
  function call({ id }: PackedPiece, name: string): void {
    names.value = new Map(names.value).set(id, name)
  }
  /** What a person calls it, or its file; a bit that is called as others are, is called after its slot. */
  function nameOf(piece: PackedPiece): string {
    const { id, names: own, bitOf } = piece
    const said = names.value.get(id) ?? (bitOf && sharesName(piece) ? slotName(slotOf(piece)) : own[0])
    return said ?? id
  }
  const sharesName = ({ id, names: own, bitOf }: PackedPiece) =>
    sorted.value!.pieces.some((p) => p.id !== id && p.bitOf?.piece === bitOf!.piece && p.names[0] === own[0])
  function slotName(slot: string): string | undefined {
    if (slot === THE_BODY) return 'Body'
    const named = slotsFor(project.library, refOf(body.value, '')).find((s) => s.id === slot)?.singular
    return named && named.charAt(0).toUpperCase() + named.slice(1)
  }
  const isBody = ({ id }: PackedPiece): boolean => isOwn.value && sorted.value!.figure!.body.includes(id)
  function slotOf(piece: PackedPiece): string {
    const said = chosen.value.get(piece.id)
    if (said !== undefined && (said !== THE_BODY || isOwn.value)) return said
    return isBody(piece) ? THE_BODY : piece.guesses[0]!.slot
  }
  /** How sure it is where a piece goes; null where a person has said so. */
  function sureOf(piece: PackedPiece): number | null {
    if (chosen.value.get(piece.id) === slotOf(piece)) return null
    return isBody(piece) ? 1 : piece.guesses[0]!.confidence
  }
  const surePieces = () =>
    (sorted.value?.pieces ?? []).filter((piece) => (sureOf(piece) ?? 1) >= SURE).map((piece) => piece.id)

  function mendAll(): void {
    mends.value = new Map(
      (sorted.value?.pieces ?? []).flatMap(({ id, findings }) => {
        const codes = findings.map((f) => f.code).filter(isMendable)
        return codes.length ? [[id, new Set(codes)] as const] : []
      }),
    )
  }
  const mendsOf = ({ id }: PackedPiece): ReadonlySet<Mendable> => mends.value.get(id) ?? new Set()
  function setMend(piece: PackedPiece, code: Mendable, on: boolean): void {
    const codes = new Set(mendsOf(piece))
    if (on) codes.add(code)
    else codes.delete(code)
    mends.value = new Map(mends.value).set(piece.id, codes)
  }

  watch(body, again)

  return {
    ...{ sorted, problems, busy, own, isOwn, pictures },
    ...{ open, give, stop, make, choose, call, nameOf, slotOf, isBody, sureOf, mendsOf, setMend, setApart, join },
  }
}
