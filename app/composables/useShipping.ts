import {
  fileName,
  filePattern,
  folderPath,
  USUAL_FOLDERS,
  type License,
  type ShipFormat,
  type Target,
} from '@idle-tinker/core'
import { useLocalStorage } from '@vueuse/core'
import type { ParcelOrder, ShipmentOrder } from '../../server/jobs/shipmentOrder'
import type { Entry } from '../documents/Keeper'
import { parcelOf, type ParcelKind } from '../documents/parcels'
import { useCrowd } from '../stores/crowd'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useShip } from '../stores/ship'
import { useView } from '../stores/view'
import { workshop } from '../workers'
import { plain } from '../workers/plain'

/** Formats that are one file, and what it ends with; all else comes as a zip. */
const ONE_FILE: Partial<Record<ShipFormat, string>> = { glb: 'glb', vrm: 'vrm', json: 'recipe.json' }

const NOTHING: Told = { passed: [], problems: [], withheld: false }

/** What is about to leave, how, and what came of it: a figure is made here and comes at once, all else is the server's work. */
export function useShipping() {
  const project = useProject()
  const figure = useFigure()
  const crowd = useCrowd()
  const ship = useShip()
  const view = useView()

  const ownPattern = ref('')
  const ownFolders = ref('')
  const lods = ref(false)
  const preparing = ref(false)
  const message = ref('')
  const told = ref<Told>(NOTHING)
  /** Whether what is told is of a file that was learned from. */
  const learning = ref(false)
  /** What the open VRM standard asks of a file; the same for all that this browser ships. */
  const license = useLocalStorage<License>('tinker.license', { authors: [] })
  /** Where nobody is named, a target's own holds. */
  const said = computed(() => (license.value.authors.length > 0 ? plain(license.value) : null))

  const what = computed(() => ship.what)
  const target = computed<Target>(() => (what.value === 'crowd' ? crowd.target : view.target))
  const busy = computed(() => preparing.value || (what.value !== 'figure' && ship.busy))
  const today = () => new Date().toISOString().slice(0, 10)
  /** As it is said here, else as the target says. */
  const pattern = computed(() => ownPattern.value.trim() || filePattern(target.value))
  const folders = computed(() => (what.value === 'several' ? ownFolders.value.trim() || USUAL_FOLDERS : ''))

  /** Clips that were made here and motions that were brought in, and those of them that go along. */
  const motions = computed(() => project.documents.motion)
  const clips = computed(() => project.documents.clip)
  const along = <T extends object>(all: readonly Entry<T>[]): T[] =>
    plain(all.filter((m) => ship.motions.includes(m.id)).map((m) => m.content))

  /** All that a shipment can be put together from. */
  const choices = computed(() => {
    const group = (kind: string, name: string, all: readonly Entry<object>[]) => ({
      name,
      items: all.map((d) => ({ id: `${kind}:${d.id}`, name: d.name })),
    })
    const { figure: figures, mix, picks } = project.documents
    const groups = [group('figure', 'Figures', figures), group('crowd', 'Crowds', mix), group('picks', 'Picks', picks)]
    return groups.filter((g) => g.items.length > 0)
  })

  /** What is chosen of them, with its names. */
  const several = computed(() =>
    ship.several.flatMap((chosen) => {
      const [kind, id] = chosen.split(/:(.*)/s) as [ParcelKind, string]
      return parcelOf(project.documents, kind, id) ?? []
    }),
  )
  const severalTargets = computed(() => project.targets.filter((t) => ship.targets.includes(t.id)))

  /** What the first file will be called. */
  const example = computed(() => {
    const fill = { number: 1, target: target.value.id, date: today(), project: '' }
    const name =
      what.value === 'crowd'
        ? (crowd.cards[0]?.recipe.name ?? crowd.mix?.name ?? 'crowd')
        : (figure.recipe?.name ?? 'figure')
    const stem = fileName(pattern.value, { ...fill, name })
    const [only, more] = ship.formats
    if (what.value !== 'figure') return `${folderPath(folders.value, { ...fill, name })}${stem}.${only ?? 'glb'}`
    const { levels, clips: apart } = target.value.gltf ?? {}
    const many = more || (levels === 'files' && lods.value) || (apart !== undefined && apart !== 'together')
    return `${stem}.${(!many && ONE_FILE[only ?? 'glb']) || 'zip'}`
  })

  /** One piece of work at a time; what goes wrong is said where the result would stand. */
  async function attempt(work: () => Promise<void>): Promise<void> {
    preparing.value = true
    message.value = ''
    told.value = NOTHING
    learning.value = false
    try {
      await work()
    } catch (error) {
      message.value = error instanceof Error ? error.message : String(error)
    } finally {
      preparing.value = false
    }
  }

  const order = (name: string, parcels: ParcelOrder[], targets: readonly Target[], insist: boolean): ShipmentOrder => ({
    ...{ name: name.slice(0, 80), parcels, targets: plain([...targets]), formats: [...ship.formats] },
    ...{ lods: lods.value, insist, pattern: ownPattern.value.trim(), folders: folders.value },
    ...{ license: said.value, motions: along(motions.value), keyed: along(clips.value) },
  })

  /** Ships the figure of the Bench at once; it is among the shipments afterwards. */
  const shipOne = (insist = false) =>
    attempt(async () => {
      if (!figure.recipe) return
      const recipe = plain(figure.recipe)
      const { name } = recipe
      const own = plain(said.value ? { ...target.value, license: said.value } : target.value)
      const answer = await workshop('bench').ship({
        ...{ recipe, target: own, formats: [...ship.formats], lods: lods.value },
        stem: fileName(pattern.value, { name, number: 1, target: own.id, date: today() }),
        ...{ motions: along(motions.value), keyed: along(clips.value), insist },
      })
      told.value = shippedWords(answer.shipped)
      const { file } = answer
      if (!file) return
      download(new Blob([file.bytes as BlobPart]), file.name)
      message.value = fileWords(answer)
      const parcel: ParcelOrder = { kind: 'figure', of: figure.id, recipe }
      try {
        await ship.keep(order(name, [parcel], [target.value], insist), pieceOf(answer, name, target.value.name), file)
      } catch (error) {
        message.value += ` It could not be put among the shipments: ${error instanceof Error ? error.message : String(error)}`
      }
    })

  const shipCrowd = () =>
    attempt(async () => {
      const { mix, id } = crowd
      if (!mix) return
      const parcel: ParcelOrder = { kind: 'crowd', of: id, name: mix.name, mix: plain(mix) }
      await ship.start(order(mix.name, [parcel], [crowd.baseTarget], false))
    })

  const shipSeveral = () =>
    attempt(async () => {
      const names = several.value.map((p) => p.name)
      const name = `${names.slice(0, 2).join(', ')}${names.length > 2 ? ` and ${names.length - 2} more` : ''}`
      const parcels = several.value.map((p) => p.parcel)
      await ship.start(order(name, parcels, severalTargets.value, false))
    })

  /** What stayed for what is wrong with it goes all the same; of the server the shipment that was told of, as it is now. */
  const insist = () => {
    const { job } = ship
    if (what.value === 'figure') return shipOne(true)
    return attempt(() => (job ? ship.again(job.id, true) : Promise.resolve()))
  }

  const lessons = useLearning({
    target: () => target.value,
    attempt: (work) =>
      attempt(() => {
        learning.value = true
        return work()
      }),
    tell: ({ problems, passed = [] }, words = '') => {
      told.value = { ...NOTHING, problems, passed }
      message.value = words
    },
  })

  function cancel(): void {
    void ship.cancel().catch((error: unknown) => {
      message.value = error instanceof Error ? error.message : String(error)
    })
  }

  function forget(): void {
    message.value = ''
    told.value = NOTHING
  }

  /** What the figure or the last job of the server came to. */
  const result = computed((): Told & { message: string } => {
    const { job } = ship
    if (what.value === 'figure' || learning.value || !job || ship.busy) return { ...told.value, message: message.value }
    const report = reportFrom(job.result)
    if (!report)
      return { ...told.value, message: message.value, problems: gathered(job.error ?? []), withheld: mayInsist(job) }
    const { pieces } = report
    const one = pieces.length === 1 ? pieces[0]! : null
    return {
      message: message.value || reportWords(report),
      passed: one?.passed ?? [],
      // of several, what came of each stands among the shipments
      problems: one?.problems ?? [],
      // of a figure some formats may have left
      withheld: one?.withheld ?? false,
    }
  })

  return {
    ...{ what, target, ownPattern, ownFolders, lods, license, example, busy, learning },
    ...lessons,
    ...{ motions, clips, choices, several, severalTargets, result },
    ...{ shipOne, shipCrowd, shipSeveral, insist, cancel, forget },
  }
}
