import {
  describeProblem,
  expressionName,
  faceAt,
  heldClip,
  keepPose,
  keyIndexAt,
  keysOfClip,
  lookExpressions,
  lookShares,
  mirrorPose,
  moveKey,
  movePose,
  newClip,
  poseAt,
  poseOfKey,
  poseOn,
  readClip,
  recordFaces,
  recordPoses,
  removeKey,
  restPose,
  setDuration,
  setEase,
  setKey,
  type Clip,
  type ClipNumbers,
  type Ease,
  type FaceKey,
  type KeptClip,
  type KeyContent,
  type KeyTrack,
  type Pose,
  type PoseOrder,
  type Sample,
} from '@idle-tinker/core'
import { useDebounceFn, useRafFn } from '@vueuse/core'
import type { Entry } from '../documents/Keeper'
import { useClip } from '../stores/clip'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useView } from '../stores/view'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import type { Moves } from '../workers/protocol'
import { useGrasp, usePoseRig } from './useGrasp'
import { useKit } from './useKit'

type Shares = FaceKey['shares']
const FULL = 'The clip has as many keys as it may have: remove some, and try again.'
/** What of the face is in hand: those of the expressions that it is about, and how much there is of them. */
interface HeldFace {
  about: ReadonlySet<string>
  shares: Shares
}
/** A key, by what it is of and when. */
export interface KeyPlace {
  track: KeyTrack
  at: number
}

/**
 * A clip of one's own, made of keys: what hands do to the figure is a key where the clip stands; while it is recorded, what
 * they do is taken up as the clip goes on.
 *
 * @param scrub brings the stage to a time of the clip, seconds
 */
export function useKeys(scrub: (time: number) => void) {
  const figure = useFigure()
  const project = useProject()
  const view = useView()
  const store = useClip()
  const { body } = useKit()
  const posed = usePoseRig()
  const { rig, plan, wishes, limbs } = posed
  /** The one that is worked on, by its id, as long as it is on screen. */
  const chosen = ref<string | null>(null)
  /** Where the clip stands, seconds. */
  const time = ref(0)
  const selected = ref<KeyPlace | null>(null)
  const said = ref<string[]>([])
  const told = ref<string[]>([])
  const removed = shallowRef<Entry<KeptClip> | null>(null)
  /** The clip as this figure plays it, what is measured of it, and what it was made of. */
  const played = shallowRef<{ clip: Clip; numbers: ClipNumbers | null; of: KeptClip } | null>(null)
  /** How the figure moves to other faces. */
  const faces = shallowRef<Record<string, Moves>>({})
  const live = shallowRef<Pose | null>(null)
  const liveFace = shallowRef<Shares | null>(null)
  const recording = ref(false)

  const own = computed(() => project.documents.clip.filter((c) => c.content.plan === plan.value?.id))
  const others = computed(() => project.documents.clip.length - own.value.length)
  const kept = computed(() => (store.id === chosen.value ? store.now : null))
  const fits = (clip: Clip | undefined) => clip?.rotations.length === rig.value?.bones.length

  watch(
    chosen,
    (id) => {
      stop()
      played.value = live.value = liveFace.value = selected.value = null
      if (store.id) store.close()
      if (id) store.open(id)
      time.value = 0
    },
    { flush: 'sync' },
  )
  onScopeDispose(() => {
    stop()
    store.close()
  })

  // as this figure plays it: one at a time, the newest next
  let busy = false
  async function follow(): Promise<void> {
    const { value: now } = kept
    if (busy || !now || !figure.recipe || !figure.view) return
    const asked = plain(now)
    const of = figure.view
    busy = true
    try {
      const { clip, problems } = await workshop('bench').playKeys(
        plain(figure.recipe),
        plain(view.target),
        asked,
        false,
      )
      if (kept.value === now) told.value = problems.map((p) => describeProblem(p))
      if (clip && figure.view === of && fits(clip)) {
        played.value = { clip, numbers: null, of: asked }
        void measureSoon()
        // what was in hand is in the clip now
        if (kept.value === now && !holding.value) live.value = liveFace.value = null
      }
    } catch (error) {
      told.value = [error instanceof Error ? error.message : String(error)]
    } finally {
      busy = false
    }
    if (kept.value !== now || figure.view !== of) void follow()
  }
  // what is measured waits until hands rest: it takes far longer than playing
  const measureSoon = useDebounceFn(async () => {
    const { value: now } = played
    if (!now || !figure.recipe) return
    try {
      const { numbers } = await workshop('bench').playKeys(plain(figure.recipe), plain(view.target), now.of, true)
      if (played.value === now) played.value = { ...now, numbers }
    } catch (error) {
      told.value = [error instanceof Error ? error.message : String(error)]
    }
  }, 400)
  watch([kept, () => figure.view], () => void follow(), { immediate: true })
  watch(
    [chosen, () => figure.view],
    async ([id, of]) => {
      faces.value = {}
      if (!id || !of || !figure.recipe) return
      try {
        const known = await workshop('bench').faces(plain(figure.recipe), plain(view.target), view.reduced)
        if (figure.view === of && chosen.value === id) faces.value = known
      } catch (error) {
        told.value = [error instanceof Error ? error.message : String(error)]
      }
    },
    { immediate: true },
  )

  const poseThere = (t: number): Pose | null => {
    const { value: on } = rig
    const clip = played.value?.clip
    if (!on) return null
    return clip && fits(clip) ? poseAt({ ...clip, loop: false }, t) : restPose(on.bones)
  }
  const pose = computed((): Pose | null => {
    const { value: hand } = live
    return hand && hand.turns.length === (rig.value?.bones.length ?? 0) * 4 ? hand : poseThere(time.value)
  })
  const shares = computed((): Shares => liveFace.value ?? (kept.value ? faceAt(kept.value, time.value) : {}))
  /** What the stage plays: the clip, or, while something is in hand, that. */
  const clip = computed((): Clip | null => {
    const { value: on } = rig
    if (!on || !pose.value || !chosen.value) return null
    if (!live.value && !liveFace.value) return played.value && fits(played.value.clip) ? played.value.clip : null
    const known = body.value?.expressions?.filter((e) => shares.value[e.id]) ?? []
    const values = known.map((e) => shares.value[e.id]!)
    return {
      ...heldClip(on.bones, pose.value),
      face: { names: known.map(expressionName), shares: Float32Array.from([...values, ...values]) },
    }
  })

  async function attempt(work: () => Promise<void>): Promise<void> {
    said.value = []
    try {
      await work()
    } catch (error) {
      said.value = [error instanceof Error ? error.message : String(error)]
    }
  }
  function change(next: KeptClip | null | undefined, mark: string | null = null): void {
    if (next && next !== kept.value) store.change(plain(next), mark)
  }
  const select = (track: KeyTrack, at: number) => void (selected.value = { track, at })
  /** Says so where a clip has as many keys as it may have. */
  function set<T extends KeyTrack>(
    now: KeptClip,
    track: T,
    content: KeyContent<T>,
    mark: string | null,
    ease?: Ease,
  ): void {
    const next = setKey(now, track, time.value, content, ease)
    said.value = next === now ? [FULL] : []
    if (next === now) live.value = liveFace.value = null
    change(next, mark)
    if (next !== now) select(track, time.value)
  }

  const keyOf = (of: Pose, before?: Pick<KeptClip['poses'][number], 'turns'>) => {
    const { turns, root } = keepPose(of, rig.value!, { name: 'Key', plan: plan.value!.id }, before)
    return { turns, root }
  }
  /** The pose is a key where the clip stands. */
  function keep(next: Pose, mark: string | null): void {
    const { value: now } = kept
    if (!now || !rig.value) return
    live.value = next
    const before = now.poses[keyIndexAt(now.poses, time.value)]
    set(now, 'poses', keyOf(next, before), mark && `${mark} ${time.value}`)
  }
  const { begin: _, ...grasp } = useGrasp(posed, pose, live, keep)

  // ——— what is in hand while it is recorded
  const segments: { poses: Sample<Pose>[][]; faces: Sample<Shares>[][] } = { poses: [], faces: [] }
  let order: PoseOrder | null = null
  /** Which clip is recorded, by its id. */
  let recorded: string | null = null
  let heldFace: HeldFace | null = null
  /** Whether a hand has hold of a handle, or of the face. */
  const holding = ref(false)
  let since = { now: 0, at: 0 }
  const { pause, resume } = useRafFn(({ timestamp }) => tick(timestamp), { immediate: false })

  function record(): void {
    if (recording.value) return stop()
    const { value: now } = kept
    if (!now) return
    recorded = store.id
    segments.poses = []
    segments.faces = []
    since = { now: 0, at: time.value < now.duration - 0.02 ? time.value : 0 }
    recording.value = true
    resume()
  }
  function tick(timestamp: number): void {
    const { value: now } = kept
    if (!now) return stop()
    if (since.now === 0) since.now = timestamp
    const at = Math.min(now.duration, since.at + (timestamp - since.now) / 1000)
    time.value = at
    const base = poseThere(at)
    if (order && rig.value && base) {
      live.value = movePose(rig.value, base, order, wishes)
      segments.poses.at(-1)?.push({ at, value: live.value })
    }
    if (heldFace) {
      liveFace.value = withFace(faceAt(now, at), heldFace)
      segments.faces.at(-1)?.push({ at, value: liveFace.value })
    }
    scrub(at)
    if (at >= now.duration) stop()
  }
  /** Takes up what was recorded. */
  function stop(): void {
    if (!recording.value) return
    pause()
    recording.value = false
    order = null
    // by now another may have been chosen
    const before = store.id === recorded ? store.now : null
    let next = before
    const { value: on } = rig
    if (next && on) {
      for (const samples of segments.poses) next = recordPoses(next, samples, on)
      for (const samples of segments.faces) next = recordFaces(next, samples)
    }
    if (next && next !== before) store.change(plain(next))
    else live.value = liveFace.value = null
    const taken = [...segments.poses, ...segments.faces].some((samples) => samples.length > 1)
    if (taken && next === before) said.value = [FULL]
    store.settle()
  }

  /** Whether the hand took hold of a handle while it was recorded, which may have come to its end since. */
  let wasRecorded = false
  const hands = {
    ...grasp,
    grab(): void {
      holding.value = true
      wasRecorded = recording.value
      if (wasRecorded) segments.poses.push([])
      else grasp.grab()
    },
    drag(to: PoseOrder): void {
      if (!wasRecorded) grasp.drag(to)
      else if (recording.value) order = to
    },
    async release(): Promise<void> {
      holding.value = false
      order = null
      if (!wasRecorded) return grasp.release()
      wasRecorded = false
      if (recording.value) live.value = null
      else await follow()
    },
    settle: () => store.settle(),
  }

  // ——— the face
  const moods = computed(() => body.value?.expressions?.filter((e) => e.mood) ?? [])
  const looks = computed(() => (body.value ? lookExpressions(body.value) : []))
  function withFace(before: Shares, { about, shares: next }: HeldFace): Shares {
    const stay = Object.entries(before).filter(([id, v]) => !about.has(id) && v > 0)
    return { ...Object.fromEntries(stay), ...next }
  }
  /** A hand has taken hold of the face. */
  function grabFace(): void {
    holding.value = true
    if (recording.value) segments.faces.push([])
  }
  function setFace(about: readonly { id: string }[], next: Shares, mark: string): void {
    const { value: now } = kept
    if (!now) return
    const held = { about: new Set(about.map((e) => e.id)), shares: next }
    if (recording.value) {
      heldFace = held
      return
    }
    const all = withFace(faceAt(now, time.value), held)
    liveFace.value = all
    set(now, 'faces', { shares: all }, `${mark} ${time.value}`)
  }
  function releaseFace(): void {
    holding.value = false
    heldFace = null
    if (recording.value) liveFace.value = null
    store.settle()
    void follow()
  }

  function freeName(stem: string): string {
    const taken = new Set(project.documents.clip.map((c) => c.name))
    for (let n = 1; ; n++) {
      const name = n === 1 ? stem : `${stem.slice(0, 74)} ${n}`
      if (!taken.has(name)) return name
    }
  }
  async function add(content: KeptClip): Promise<string> {
    const { id } = await project.add('clip', plain({ ...content, name: freeName(content.name) }))
    return id
  }
  let basis: KeptClip | null = null
  const copied = shallowRef<{ poses?: KeptClip['poses'][number]; faces?: KeptClip['faces'][number] } | null>(null)

  return {
    ...{ chosen, kept, own, others, time, selected, said, told, removed, played, faces, clip, pose, shares, limbs },
    ...{ recording, record, stop, select, moods, looks, grabFace, setFace, releaseFace, hands, copied },
    lookAt: (toLeft: number, up: number) =>
      void (body.value && setFace(looks.value, lookShares(body.value, toLeft, up), 'look')),
    /** Makes a clip, of the pose the figure is in, or with the keys of another. @returns its id */
    async make(from: Clip | null): Promise<string | null> {
      let id: string | null = null
      await attempt(async () => {
        const { value: on } = rig
        if (!on || !plan.value) return
        const to = { plan: plan.value.id }
        id = await add(
          from
            ? keysOfClip(from, on, { ...to, name: `${from.name.slice(0, 70)}, mine` })
            : setKey(newClip('New clip', to.plan), 'poses', 0, keyOf(restPose(on.bones))),
        )
      })
      return id
    },
    put: (of: Pose) => keep(of, null),
    /** Begins to bring a key elsewhere; the others are where they are now until it is let go. */
    takeKey: () => void (basis = kept.value),
    moveKey({ track, at }: KeyPlace, to: number): void {
      const from = basis ?? kept.value
      if (!from) return
      const next = moveKey(from, track, at, to)
      change(next, 'move key')
      const there = next[track].find((k) => Math.abs(k.at - Math.min(from.duration, Math.max(0, to))) < 0.001)
      if (there) select(track, there.at)
    },
    dropKey(): void {
      basis = null
      store.settle()
    },
    ease: ({ track, at }: KeyPlace, ease: Ease) => change(kept.value && setEase(kept.value, track, at, ease)),
    removeKey({ track, at }: KeyPlace): void {
      change(kept.value && removeKey(kept.value, track, at))
      selected.value = null
    },
    copyKey({ track, at }: KeyPlace): void {
      const key = kept.value?.[track][keyIndexAt(kept.value[track], at)]
      if (key) copied.value = { [track]: plain(key) }
    },
    /** Puts what was copied where the clip stands. */
    pasteKey(): void {
      const { value: now } = kept
      if (!now || !copied.value) return
      const { poses, faces: face } = copied.value
      if (poses) set(now, 'poses', { turns: poses.turns, root: poses.root }, null, poses.ease)
      if (face) set(now, 'faces', { shares: face.shares }, null, face.ease)
    },
    setLoop: (loop: boolean) => change(kept.value && { ...kept.value, loop }),
    setDuration: (seconds: number, stretched: boolean) =>
      change(kept.value && setDuration(kept.value, seconds, stretched), 'duration'),
    mirror(): void {
      const { value: now } = kept
      const { value: on } = rig
      if (!now || !on) return
      const poses = now.poses.map((key) => {
        const mirrored = mirrorPose(on, poseOn(poseOfKey(key, now), on))
        return { ...key, ...keyOf(mirrored) }
      })
      change({ ...now, poses })
    },
    /** Makes another of its kind. @returns its id */
    async copy(): Promise<string | null> {
      let id: string | null = null
      await attempt(async () => {
        if (kept.value) id = await add(kept.value)
      })
      return id
    },
    rename: (name: string) => change(kept.value && { ...kept.value, name: name.slice(0, 80) }),
    remove: (entry: Entry<KeptClip>) =>
      attempt(async () => {
        await project.remove('clip', entry.id)
        if (store.id === entry.id) store.forget()
        if (chosen.value === entry.id) chosen.value = null
        removed.value = entry
      }),
    bringBack: () =>
      attempt(async () => {
        if (removed.value) await project.restore('clip', removed.value.id)
        removed.value = null
      }),
    /** Reads clip files and keeps what is in them. @returns the id of the first that can be played here */
    async bring(files: readonly File[]): Promise<string | null> {
      let first: string | null = null
      await attempt(async () => {
        const found: string[] = []
        for (const file of files) {
          const { value, problems } = readClip(await file.text(), file.name)
          found.push(...problems.map((p) => describeProblem(p)))
          if (!value) continue
          const id = await add(value)
          if (value.plan === plan.value?.id) first ??= id
          else found.push(`“${value.name}” is for figures of another kind; it is kept for them.`)
        }
        said.value = found
      })
      return first
    },
  }
}
export type Keys = ReturnType<typeof useKeys>
