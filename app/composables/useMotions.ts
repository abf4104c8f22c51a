import { describeProblem, skeletonHash, type Motion, type MotionMatch } from '@idle-tinker/core'
import type { Entry } from '../documents/Keeper'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useView } from '../stores/view'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import type { CarriedMotion } from '../workers/protocol'

/** Motions from elsewhere: brought in, kept, and carried onto the figure that is here. */
export function useMotions() {
  const project = useProject()
  const figure = useFigure()
  const view = useView()
  /** Why something could not be done, or not wholly; and what was told of the motion that is carried. */
  const said = ref<string[]>([])
  const told = ref<string[]>([])
  const busy = ref(false)
  /** The motion that was carried last, as a clip of the figure. */
  const carried = shallowRef<(NonNullable<CarriedMotion['carried']> & { id: string }) | null>(null)
  const removed = shallowRef<Entry<Motion> | null>(null)
  /** Which of several files is being read. */
  const bringing = ref<{ done: number; of: number; name: string } | null>(null)
  let stopped = false
  let run = 0

  async function attempt(work: () => Promise<void>): Promise<void> {
    said.value = []
    busy.value = true
    try {
      await work()
    } catch (error) {
      said.value = [error instanceof Error ? error.message : String(error)]
    } finally {
      busy.value = false
    }
  }
  const load = () => attempt(() => project.loadMotions())

  /** Reads files and keeps their motions; a file that cannot be read costs only itself. Gives the first that was kept. */
  async function bring(files: readonly File[]): Promise<string | null> {
    let first: string | null = null
    stopped = false
    await attempt(async () => {
      const found: string[] = []
      const bytesOf = async (file: File) => new Uint8Array(await file.arrayBuffer())
      const isBuffer = ({ name }: File) => /\.bin$/i.test(name)
      const motions = files.filter((file) => !isBuffer(file))
      const beside = new Map<string, Uint8Array>()
      for (const file of files.filter(isBuffer)) beside.set(file.name, await bytesOf(file))
      if (motions.length === 0) found.push('A .bin file alone holds no motion: bring its .gltf file along.')
      for (const [done, file] of motions.entries()) {
        if (!figure.recipe) break
        bringing.value = motions.length > 1 ? { done, of: motions.length, name: file.name } : null
        if (stopped) {
          found.push(`Stopped after ${done} of ${motions.length} files.`)
          break
        }
        const bytes = await bytesOf(file)
        // what was corrected last is what is meant
        const known = project.documents.motion.flatMap((m) => m.content.match ?? []).reverse()
        const brought = await workshop('bench').bringMotions(
          file.name,
          bytes,
          beside,
          plain(figure.recipe),
          plain(known),
        )
        found.push(...brought.problems.map((p) => describeProblem(p)))
        for (const motion of brought.motions) {
          const { id } = await project.add('motion', motion)
          first ??= id
        }
      }
      said.value = found
    })
    bringing.value = null
    return first
  }

  /** Carries a motion onto the figure as it now is; a later one takes its place. */
  async function carry(entry: Entry<Motion> | null): Promise<void> {
    const mine = ++run
    told.value = []
    if (carried.value?.id !== entry?.id) carried.value = null
    if (!entry || !figure.recipe) return
    busy.value = true
    try {
      const answer = await workshop('bench').carryMotion(
        plain(figure.recipe!),
        plain(view.target),
        plain(entry.content),
      )
      if (mine !== run) return
      told.value = answer.problems.map((p) => describeProblem(p))
      carried.value = answer.carried && { id: entry.id, ...answer.carried }
    } catch (error) {
      if (mine === run) told.value = [error instanceof Error ? error.message : String(error)]
    } finally {
      if (mine === run) busy.value = false
    }
  }

  const amend = (entry: Entry<Motion>, change: Partial<Motion>) =>
    attempt(() => project.amendKept('motion', entry, change))

  /** Keeps which joints are which bones, for every motion of that skeleton. */
  const rematch = (match: MotionMatch) =>
    attempt(async () => {
      for (const motion of project.documents.motion)
        if (skeletonHash(motion.content) === match.skeleton) await project.amendKept('motion', motion, { match })
    })

  const remove = (entry: Entry<Motion>) =>
    attempt(async () => {
      await project.remove('motion', entry.id)
      removed.value = entry
    })
  const bringBack = () =>
    attempt(async () => {
      if (removed.value) await project.restore('motion', removed.value.id)
      removed.value = null
    })

  /** The figure with a motion as its clip, as a file; null where it cannot be. */
  async function fileOf(entry: Entry<Motion>): Promise<Uint8Array | null> {
    let bytes: Uint8Array | null = null
    await attempt(async () => {
      if (!figure.recipe) return
      const made = await workshop('bench').shipMotions(plain(figure.recipe), plain(view.target), [plain(entry.content)])
      bytes = made.bytes
      said.value = made.problems.filter((p) => p.severity === 'error').map((p) => describeProblem(p))
    })
    return bytes
  }

  /** No more files are read; what has been read is kept. */
  const stop = () => void (stopped = true)

  return {
    said,
    told,
    busy,
    bringing,
    stop,
    carried,
    removed,
    load,
    bring,
    carry,
    amend,
    rematch,
    remove,
    bringBack,
    fileOf,
  }
}
