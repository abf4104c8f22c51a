import {
  createWorldPose,
  handlePlace,
  movePose,
  poseRig,
  solveForward,
  type Pose,
  type PoseHandle,
  type PoseOrder,
  type PoseWishes,
} from '@idle-tinker/core'
import type { Ref, ShallowRef } from 'vue'
import { useFigure } from '../stores/figure'

/** The figure at hand made ready to be posed, and what hands wish for while they pose it. */
export function usePoseRig() {
  const figure = useFigure()
  const plan = usePlan()
  /** Which joint is looked at, by its bone's name. */
  const joint = ref<string | null>(null)
  const wishes = reactive({ pinned: new Set<string>(), mirrored: false, free: false })
  const rig = computed(() => (figure.view && plan.value ? poseRig(figure.view, plan.value) : null))
  const limbs = computed(() => rig.value?.limbs.filter((_, i) => rig.value!.jointed[i]) ?? [])
  watch(
    () => limbs.value.map((l) => l.id).join(),
    () => {
      wishes.pinned = new Set(limbs.value.flatMap((l) => (l.kind === 'leg' ? [l.id] : [])))
      joint.value = null
    },
    { immediate: true },
  )
  return { plan, rig, limbs, joint, wishes }
}
export type Posed = ReturnType<typeof usePoseRig>

/**
 * What hands do with a pose on the stage: a handle goes where it is drawn to, from where it was when the hand took hold.
 *
 * @param pose the pose the figure has
 * @param live the pose while something is in hand, or on its way to be kept
 * @param keep keeps a pose; those with one mark are one step of undo
 */
export function useGrasp(
  { rig, joint, wishes }: Pick<Posed, 'rig' | 'joint' | 'wishes'>,
  pose: Readonly<Ref<Pose | null>>,
  live: ShallowRef<Pose | null>,
  keep: (pose: Pose, mark: string | null) => Promise<void> | void,
) {
  const world = computed(() =>
    rig.value && pose.value ? solveForward(rig.value.bones, pose.value, createWorldPose(rig.value.bones)) : null,
  )
  /** Where what can be taken hold of is, metres. */
  const handles = computed(() => {
    const [on, at] = [rig.value, world.value]
    return on && at ? on.handles.map((handle) => ({ handle, at: handlePlace(on, handle, at) })) : []
  })

  /** What a hand does, from when it took hold on. */
  let start: Pose | null = null
  function grab(): void {
    start = pose.value
  }
  function drag(order: PoseOrder): void {
    const on = rig.value
    // meanwhile the figure may have become one of other bones
    if (!on || start?.turns.length !== on.bones.length * 4) return
    if ('handle' in order && !on.handles.some((h) => h.id === order.handle)) return
    live.value = movePose(on, start, order, wishes)
  }
  async function release(): Promise<void> {
    const moved = live.value
    const from = start
    start = null
    if (moved && moved !== from) await keep(moved, null)
  }
  return {
    ...{ rig, joint, wishes, handles, grab, drag, release },
    /** Begins with what there is, unless a hand has already. */
    begin: () => (start ??= pose.value),
    /** Does one thing at once; those with one mark are one step of undo. */
    act(order: PoseOrder, mark: string | null): void {
      if (rig.value && pose.value) void keep(movePose(rig.value, pose.value, order, wishes), mark)
    },
    /** Looks at one joint, by its bone's name. */
    lookAt: (bone: string) => void (joint.value = bone),
    /** Where a handle was when the hand took hold. */
    placeOf: (handle: PoseHandle): [number, number, number] | null =>
      handles.value.find((h) => h.handle.id === handle.id)?.at ?? null,
  }
}

/** What handles on the stage need of whoever is posed by them. */
export interface Grasped extends Omit<ReturnType<typeof useGrasp>, 'begin'> {
  wishes: PoseWishes & { pinned: Set<string> }
  /** The next thing done is a step of its own. */
  settle: () => void
}
