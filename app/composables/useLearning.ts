import type { Asked, LearnRead, MotionMatch, Target } from '@idle-tinker/core'
import { useProject } from '../stores/project'
import { useTarget } from '../stores/target'
import { workshop } from '../workers'
import { plain } from '../workers/plain'

/** What was learned from, and who is asked about it. */
interface Lesson {
  bytes: Uint8Array
  file: string
  name: string
  asked: Asked | null
  /** The target that came of it; null where nothing could be learned yet. */
  target: string | null
}

interface Surroundings {
  /** The target whose limits a new one begins with. */
  target: () => Target
  attempt: (work: () => Promise<void>) => Promise<void>
  tell: (told: Pick<LearnRead, 'problems'> & { passed?: string[] }, message?: string) => void
}

/** Learns from files of a game what its figures are like, and asks a person what could not be told by looking. */
export function useLearning({ target, attempt, tell }: Surroundings) {
  const project = useProject()
  const limits = useTarget()
  const lesson = shallowRef<Lesson | null>(null)

  async function learn({ bytes, file, name, target: before }: Lesson, match?: MotionMatch): Promise<string | null> {
    const base = { ...plain(target()), name }
    const { value, problems, asked } = await workshop('bench').learn(bytes, file, base, match && plain(match))
    lesson.value = { bytes, file, name, asked, target: before }
    tell({ problems })
    if (!value) throw new Error(`Nothing could be learned from ${file}.`)
    // what was said of its bones later changes the target that was learned, and no more of it than that
    const kept = project.targets.find((t) => t.id === before)
    const id = kept?.id ?? (await project.addNamed('target', value.target)).id
    limits.open(id)
    if (kept) limits.change({ ...plain(kept), convention: value.target.convention })
    lesson.value = { ...lesson.value, target: id }
    const known = kept?.name ?? project.targets.find((t) => t.id === id)?.name ?? name
    tell({ problems, passed: learnedWords(value) }, kept ? `“${known}” goes by what you said.` : `“${known}” is a target now.`) // prettier-ignore
    return id
  }

  const learnFrom = (file: File, choose: (id: string) => void) =>
    attempt(async () => {
      lesson.value = null
      const bytes = new Uint8Array(await file.arrayBuffer())
      const name = (file.name.replace(/\.[^.]*$/, '') || 'Game').slice(0, 72)
      const id = await learn({ bytes, file: file.name, name, asked: null, target: null })
      if (id) choose(id)
    })

  /** Learns once more, by what a person says its bones are. */
  const answer = (match: MotionMatch, choose: (id: string) => void) =>
    attempt(async () => {
      if (!lesson.value) return
      const id = await learn(lesson.value, match)
      if (id) choose(id)
    })

  /** Of which file one can say which bone is which, and what is known of it; as long as its target is the one that is shipped to. */
  const asked = computed(() => {
    const own = lesson.value
    if (!own?.asked || (own.target && own.target !== target().id)) return null
    return { ...own.asked, name: own.file, learned: own.target !== null }
  })

  return { asked, learnFrom, answer }
}
