import {
  armsPose,
  blendPoses,
  describeProblem,
  evenPose,
  heldClip,
  keepPose,
  lowestIn,
  mirrorPose,
  poseOn,
  readPose,
  restPose,
  setDown,
  type KeptPose,
  type Pose,
} from '@idle-tinker/core'
import { refDebounced } from '@vueuse/core'
import type { Entry } from '../documents/Keeper'
import { useFigure } from '../stores/figure'
import { usePose } from '../stores/pose'
import { useProject } from '../stores/project'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import { useGrasp, usePoseRig } from './useGrasp'

/** A pose one can choose: of rest, with arms held out as the trade calls it, of a kit, or one's own. */
export interface ListedPose {
  id: string
  name: string
  from: 'rest' | 'kit' | 'own'
  /** On the figure at hand. */
  pose: Pose
  entry?: Entry<KeptPose>
}

/** The pose the figure on the stage is put into, and what hands do with it. What is changed is kept as a pose of one's own. */
export function usePosing() {
  const figure = useFigure()
  const project = useProject()
  const store = usePose()
  const { told: ready, wanted: shown } = useOfFigure((...of) => workshop('bench').poses(...of))
  const said = ref<string[]>([])
  const removed = shallowRef<Entry<KeptPose> | null>(null)
  const chosen = ref('built')
  /** While something is in hand, or on its way to be kept. */
  const live = shallowRef<Pose | null>(null)
  const { plan, rig, limbs, joint, wishes } = usePoseRig()

  const own = computed(() => project.documents.pose.filter((p) => p.content.plan === plan.value?.id))
  /** Those of figures of another kind: they are not lost. */
  const others = computed(() => project.documents.pose.length - own.value.length)
  const listed = computed((): ListedPose[] => {
    const on = rig.value
    if (!on) return []
    const rests = RESTS.flatMap(({ id, name }): ListedPose[] => {
      const pose = id === 'built' ? restPose(on.bones) : armsPose(on, id)
      return pose ? [{ id, name, from: 'rest', pose }] : []
    })
    return [
      ...rests,
      ...ready.value.map(({ id, pose }): ListedPose => ({
        ...{ id: `kit ${id}`, name: pose.name, from: 'kit' },
        pose: poseOn(pose, on),
      })),
      ...own.value.map((entry): ListedPose => ({
        ...{ id: `own ${entry.id}`, name: entry.content.name, from: 'own', entry },
        pose: poseOn(entry.content, on),
      })),
    ]
  })
  const current = computed(() => listed.value.find((p) => p.id === chosen.value) ?? listed.value[0] ?? null)
  const pose = computed((): Pose | null => {
    const bones = rig.value?.bones.length
    const now = live.value ?? current.value?.pose
    // of other bones it would be of another figure
    return now && now.turns.length === (bones ?? 0) * 4 ? now : null
  })
  const clip = computed(() => (shown.value && rig.value && pose.value ? heldClip(rig.value.bones, pose.value) : null))
  const { begin, ...grasp } = useGrasp({ rig, joint, wishes }, pose, live, (next, mark) => keep(next, mark))
  /** The pose, once hands rest: every point of the figure is looked at for it. */
  const rested = refDebounced(pose, 150)
  /** Of the lowest point, metres above the ground. */
  const lowest = computed(() => {
    const [on, { value: now }] = [rig.value, rested]
    if (!on || !figure.view || now?.turns.length !== on.bones.length * 4) return 0
    return lowestIn(on.bones, figure.view.mesh, now)
  })

  // what lies open is what is chosen, and undo is of that alone
  watch(
    [() => current.value?.entry?.id ?? null, shown],
    ([id, here]) => {
      if (!here || id !== store.id) store.close()
      if (here && id && id !== store.id) store.open(id)
    },
    { immediate: true },
  )
  watch(chosen, () => (live.value = null))
  watch(rig, (now, before) => {
    if (now?.bones.length !== before?.bones.length) live.value = null
  })
  onScopeDispose(() => store.close())

  async function attempt(work: () => Promise<void>): Promise<void> {
    said.value = []
    try {
      await work()
    } catch (error) {
      said.value = [error instanceof Error ? error.message : String(error)]
    }
  }

  /** A name that no pose of one's own has yet. */
  function freeName(stem: string): string {
    const taken = new Set(project.documents.pose.map((p) => p.name))
    for (let n = 2; ; n++) {
      const name = `${stem.slice(0, 74)} ${n}`
      if (!taken.has(name)) return name
    }
  }

  /** What is worked on since a pose was chosen: the one of one's own it is, or has become. */
  interface Work {
    chosen: string
    own: string | null
  }
  let work: Work = { chosen: chosen.value, own: null }
  function workOn(from: ListedPose): Work {
    if (work.chosen !== from.id) work = { chosen: from.id, own: from.entry?.id ?? null }
    return work
  }
  /** One after the other: a change of one that is on its way to become one's own waits for it. */
  let last: Promise<void> = Promise.resolve()
  /** Keeps a pose: in the one of one's own that is worked on, whatever is chosen by then, or else as a new one. */
  function keep(next: Pose, mark: string | null = null): Promise<void> {
    const [on, from] = [rig.value, current.value]
    if (!on || !from || !plan.value) return last
    live.value = next
    const to = plan.value.id
    const mine = workOn(from)
    last = last.then(() =>
      attempt(async () => {
        const entry = project.documents.pose.find((p) => p.id === mine.own)
        if (!entry) {
          const name = from.id === 'built' ? freeName('Pose') : freeName(from.name.replace(/:.*/, ''))
          mine.own = await add(keepPose(next, on, { name, plan: to }), next, mine)
          return
        }
        const kept = keepPose(next, on, { name: entry.content.name, plan: to }, plain(entry.content))
        if (store.id === entry.id) store.change(kept, mark)
        else await project.amendKept('pose', entry, kept)
        if (live.value === next) live.value = null
      }),
    )
    return last
  }
  /**
   * Adds a pose of one's own, and goes on with it unless another was chosen meanwhile, or it is for other figures.
   *
   * @returns its id
   */
  async function add(kept: KeptPose, as: Pose | null, from: Work | null): Promise<string> {
    const { id } = await project.add('pose', plain(kept))
    const now = live.value
    if (kept.plan !== plan.value?.id || (from && (from !== work || chosen.value !== from.chosen))) return id
    chosen.value = `own ${id}`
    if (from) from.chosen = chosen.value
    if (shown.value) store.open(id)
    await nextTick()
    // what has been moved meanwhile is still in hand
    if (now !== as) live.value = now
    return id
  }

  /** What is seen has not been kept: there was nobody to take it. */
  const unkept = computed(() => live.value !== null && said.value.length > 0)
  const retry = () => void (live.value && keep(live.value))

  const change = (of: (pose: Pose) => Pose) => void (pose.value && keep(of(pose.value)))

  return {
    ...{
      shown,
      listed,
      chosen,
      current,
      pose,
      clip,
      limbs,
      lowest,
      said,
      others,
      removed,
    },
    ...grasp,
    ...{ unkept, retry },
    mirror: () => change((p) => mirrorPose(rig.value!, p)),
    even: (like: 'left' | 'right') => change((p) => evenPose(rig.value!, p, like)),
    putDown: () => change((p) => setDown(rig.value!.bones, figure.view!.mesh, p)),
    toRest: () => change(() => restPose(rig.value!.bones)),
    /** Between the pose that was there before and another, without keeping it yet. */
    blend(other: ListedPose, share: number): void {
      const start = begin()
      if (start && rig.value) live.value = blendPoses(rig.value.bones, start, other.pose, share)
    },
    rename: (name: string) => {
      if (store.now) store.change({ ...plain(store.now), name: name.slice(0, 80) })
    },
    settle: () => store.settle(),
    copy: () =>
      attempt(async () => {
        const { value } = current
        if (value?.entry) await add({ ...plain(value.entry.content), name: freeName(value.name) }, null, null)
      }),
    remove: () =>
      attempt(async () => {
        const entry = current.value?.entry
        if (!entry) return
        await project.remove('pose', entry.id)
        store.forget()
        removed.value = entry
        chosen.value = 'built'
      }),
    bringBack: () =>
      attempt(async () => {
        const entry = removed.value
        if (!entry) return
        await project.restore('pose', entry.id)
        removed.value = null
        chosen.value = `own ${entry.id}`
      }),
    /** Keeps a moment of a clip as a pose. */
    take: (moment: Pose, name: string) =>
      attempt(async () => {
        if (rig.value && plan.value)
          await add(keepPose(moment, rig.value, { name: freeName(name), plan: plan.value.id }), null, null)
      }),
    /** Reads pose files and keeps what is in them. */
    bring: (files: readonly File[]) =>
      attempt(async () => {
        const found: string[] = []
        for (const file of files) {
          const { value, problems } = readPose(await file.text(), file.name)
          found.push(...problems.map((p) => describeProblem(p)))
          if (!value) continue
          await add(value, null, null)
          if (value.plan !== plan.value?.id)
            found.push(`“${value.name}” is for figures of another kind; it is kept for them.`)
        }
        said.value = found
      }),
  }
}
export type Posing = ReturnType<typeof usePosing>
