import {
  givenBy,
  mirroredId,
  setLandmarks,
  pointsOf,
  type DrawnChain,
  type Landmark,
  type LandmarkFile,
  type LandmarkId,
  type RigGiven,
  type Point,
} from '@idle-tinker/core'
import { useProject } from '../stores/project'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import type { MeshAnswer } from '../workers/protocol'
import { contentsOf, usePackWorker } from './usePackWorker'

/** A mesh without bones that was brought in: how it lies, where its joints are, and the kit that is made of it. */
export function useRig() {
  const project = useProject()
  const { problems, busy, work, fail, stop, isRead, setRead } = usePackWorker()
  const mesh = shallowRef<MeshAnswer['mesh']>(null)
  const landmarks = ref<Landmark[]>([])
  /** Whether what is done to one side is done to the other. */
  const mirrored = ref(true)
  /** Chains that were drawn on it. */
  const chains = shallowRef<DrawnChain[]>([])
  /** The one that is being drawn, place after place; null while none is. */
  const drawing = shallowRef<DrawnChain | null>(null)
  /** What was there before each move, the last one last. */
  const before = shallowRef<{ landmarks: Landmark[]; chains: DrawnChain[]; drawing: DrawnChain | null }[]>([])
  let files: readonly File[] = []
  let given: RigGiven = {}

  /** @param set what a person has put right stays: the figure lies as it did, though it may be larger or smaller */
  async function look(set = false): Promise<void> {
    const fresh = !isRead()
    const [was, tall] = [landmarks.value, mesh.value?.placing.height]
    const answer = await work('Looking for its joints …', async () =>
      workshop('pack').openMesh({ files: fresh ? await contentsOf(files) : null, given: { ...given } }),
    )
    if (!answer) return
    setRead(answer.mesh !== null)
    problems.value = answer.problems
    mesh.value = answer.mesh
    const k = set && tall && answer.mesh ? answer.mesh.placing.height / tall : null
    landmarks.value = (answer.mesh?.landmarks ?? []).map((found) => {
      const moved = k === null ? undefined : was.find((l) => l.id === found.id && l.sure === 1)
      return moved && k !== null ? { ...moved, at: scaled(moved.at, k) } : found
    })
    // what was put where nothing was seen, as a tail, stays too
    if (k !== null && answer.mesh?.landmarks.length)
      for (const own of was)
        if (own.sure === 1 && !landmarks.value.some((l) => l.id === own.id))
          landmarks.value = [...landmarks.value, { ...own, at: scaled(own.at, k) }]
    chains.value = k === null ? [] : chains.value.map((c) => ({ ...c, points: c.points.map((p) => scaled(p, k)) }))
    drawing.value = null
    before.value = []
  }
  /** Takes up other files, about which nothing is known yet. */
  function open(next: readonly File[]): void {
    files = next
    given = {}
    mesh.value = null
    setRead(false)
    void look()
  }
  function give(more: RigGiven): void {
    given = { ...given, ...more }
    void look(more.up === undefined && more.front === undefined && more.legs === undefined)
  }

  /** Takes what a file says: how it lies, and then where its joints are. */
  async function take(file: LandmarkFile): Promise<void> {
    given = { ...given, ...givenBy(file) }
    await look()
    landmarks.value = setLandmarks(landmarks.value, file)
    chains.value = file.chains ?? []
  }

  /** Where the middle of it is: what is mirrored is mirrored there. */
  const middle = () => {
    const own = landmarks.value.filter((l) => mirroredId(l.id) === l.id).map((l) => l.at[0])
    return own.length ? mean(own) : (mesh.value?.plane ?? 0)
  }
  /** Puts a landmark somewhere, and the one on its other side, if both go together. */
  function put(id: LandmarkId, at: Point): void {
    const other = mirroredId(id)
    const across: Point = [2 * middle() - at[0], at[1], at[2]]
    landmarks.value = landmarks.value.map((l) => {
      if (l.id === id) return { ...l, at: other === id && mirrored.value ? [l.at[0], at[1], at[2]] : at, sure: 1 }
      return mirrored.value && l.id === other ? { ...l, at: across, sure: 1 } : l
    })
  }
  /** Before a move begins: so that it can be taken back. */
  function keep(): void {
    const now = { landmarks: landmarks.value, chains: chains.value, drawing: drawing.value }
    before.value = [...before.value, now].slice(-100)
  }
  function undo(): void {
    const last = before.value.at(-1)
    if (!last) return
    before.value = before.value.slice(0, -1)
    landmarks.value = last.landmarks
    chains.value = last.chains
    drawing.value = last.drawing
  }
  /**
   * A place in the middle of what lies behind it; none where the worker is lost, which is told. No question of its own: what
   * is being made goes on.
   */
  const settled = async (at: Point, axis: 0 | 2): Promise<Point | null> =>
    isRead()
      ? workshop('pack')
          .settle([...at], axis)
          .catch((error: unknown) => {
            fail(error)
            return null
          })
      : null
  /** After it was moved as seen along an axis, it settles in the middle of the limb there. */
  async function settle(id: LandmarkId, axis: 0 | 2): Promise<void> {
    const now = landmarks.value
    const at = now.find((l) => l.id === id)!.at
    const there = await settled(at, axis)
    // it may have been moved on meanwhile
    if (there && landmarks.value === now) put(id, there)
  }

  /** Begins a chain: what it is, and whether it is on both sides. */
  function draw(kind: DrawnChain['kind'], both: boolean): void {
    keep()
    drawing.value = { kind, mirrored: both && kind !== 'trunk', points: [] }
  }
  /** Its next place, as seen along an axis: in the middle of what lies there. It ends by itself where it can have no more. */
  async function drawTo(at: Point, axis: 0 | 2): Promise<void> {
    const now = drawing.value
    if (!now) return
    const place = (await settled(at, axis)) ?? at
    if (drawing.value !== now) return
    // the trunk is in the middle, and so is mostly what is there once
    const next = now.mirrored ? place : centred(place)
    const last = now.points.at(-1)
    if (last && next.every((v, k) => Math.abs(v - last[k]!) < 1e-4)) return
    keep()
    drawing.value = { ...now, points: [...now.points, next] }
    if (drawing.value.points.length === pointsOf(now.kind).most) endDrawing()
  }
  /** What is drawn near the middle is on it. */
  const centred = (at: Point): Point =>
    mirrored.value && Math.abs(at[0] - middle()) < 0.03 * (mesh.value?.placing.height ?? 1)
      ? [middle(), at[1], at[2]]
      : at
  /** Whether the chain that is being drawn has as many places as it needs. */
  const isDrawn = computed(() => {
    const now = drawing.value
    return now !== null && now.points.length >= pointsOf(now.kind).least
  })
  function endDrawing(): void {
    if (drawing.value && isDrawn.value) chains.value = [...chains.value, drawing.value]
    drawing.value = null
  }
  function removeChain(i: number): void {
    keep()
    chains.value = chains.value.filter((_, k) => k !== i)
  }

  /** The kit that is made of it, as a zip; null where it cannot be, which is told. */
  async function make(id: string, name: string): Promise<Uint8Array | null> {
    // its worker was lost: it reads the files again, and what was put right stays
    if (!isRead()) await look(true)
    const made = await work('Making bones …', async () => {
      const worker = workshop('pack')
      await worker.loadKits(plain(project.addresses), location.origin)
      return worker.rigMesh({ id, name, landmarks: plain(landmarks.value), chains: plain(chains.value) })
    })
    if (made) problems.value = made.problems
    return made?.zip ?? null
  }

  return {
    ...{ mesh, landmarks, mirrored, problems, busy, before, open, give, take, put, keep, undo, settle, make, stop },
    ...{ chains, drawing, isDrawn, draw, drawTo, endDrawing, removeChain },
  }
}

const scaled = (at: Point, k: number) => at.map((v) => v * k) as Point
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / (values.length || 1)
