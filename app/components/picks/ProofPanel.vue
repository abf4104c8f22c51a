<script setup lang="ts">
import { fullName, offerPart, partOf, refOf } from '@idle-tinker/core'
import { drawLooks } from '@idle-tinker/example'
import { lookFromText, Wardrobe } from '@idle-tinker/runtime'
import type { PackageReport } from '../../../server/jobs/buildPicksTask'
import { useFigure } from '../../stores/figure'
import { usePicks } from '../../stores/picks'
import { useProject } from '../../stores/project'
import { pickedRecipe } from '../../composables/pickedRecipe'
import { plain } from '../../workers/plain'

/** What was proved over every look a player can make, and what was not. */
const props = defineProps<{ report: PackageReport; stale: boolean; address: string }>()
const emit = defineEmits<{ look: [text: string] }>()
const picks = usePicks()
const project = useProject()
const figure = useFigure()
const router = useRouter()
const message = ref('')
const nameOf = (option: string) => partOf(project.library, refOf(option, ''))?.def.name ?? option
const bodyName = (id: string) => props.report.bodies.find((b) => b.id === id)?.name ?? id
const count = (n: number) => n.toLocaleString('en')
const MEASURES: Record<string, string> = { download: 'loaded by the game, KB', texture: 'texture, KB' }
const shown = (measure: string, n: number) => count(Object.hasOwn(MEASURES, measure) ? Math.ceil(n / 1024) : n)

type Body = PackageReport['bodies'][number]
const limitOf = (b: Body, measure: string) => b.costs.find((c) => c.measure === measure)?.limit ?? 0
function faultsOf(b: Body): string[] {
  return [
    ...b.costs
      .filter((c) => c.least > c.limit)
      .map(
        (c) =>
          `Even the lightest look has ${shown(c.measure, c.least)} ${MEASURES[c.measure] ?? c.measure}; the limit is ${shown(c.measure, c.limit)}.`,
      ),
    ...b.tooMuch.map(
      (t) =>
        `With ${nameOf(t.option)} there are at least ${count(t.least)} ${t.measure}, ${count(t.least - limitOf(b, t.measure))} too many: no look with it fits until that much is taken off it.`,
    ),
    ...b.unreachable.map((u) => `${nameOf(u.option)} can never be worn: ${reasons(u.why)}.`),
    ...b.bare.map(
      (r) =>
        `A player can leave ${Math.round(r.share * 100)} % of ${r.region} bare, in ${r.choice.worn.map(nameOf).join(', ') || 'nothing'}.`,
    ),
  ]
}

const RULES = { excludes: 'never goes with', together: 'goes only with' } as const
/** Rules and slots that contradict it together. */
function reasons({ rules, groups }: Body['unreachable'][number]['why']): string {
  const all = rules.map((r) => {
    if (r.kind === 'needs') return `${nameOf(r.one)} needs ${r.oneOf.map(nameOf).join(' or ') || 'what is not offered'}`
    if (r.kind === 'covers') return `${nameOf(r.one)} takes its place`
    return `${nameOf(r.one)} ${RULES[r.kind]} ${nameOf(r.other)}`
  })
  return [...all, ...groups.map((g) => `something has to be on in ${g}`)].join('; ')
}

const listed = (words: readonly string[]) => new Intl.ListFormat('en').format(words)
/** Takes parts out of what is offered, all in one step. */
function leaveOut(id: string, options: readonly string[]): void {
  const body = picks.now?.bodies.find((b) => b.id === id)
  if (!body) return
  let next = plain(picks.now!)
  for (const { slot, parts } of body.slots)
    for (const { part } of parts)
      if (options.includes(fullName(refOf(part, body.body.kit)))) next = offerPart(next, id, slot, part, false)
  picks.change(next)
}

/** The dearest look as a figure of its own, on the Bench. */
async function toBench(b: Body, worn: readonly string[]): Promise<void> {
  const body = picks.now?.bodies.find((own) => own.id === b.id)
  if (!body) return
  try {
    const recipe = pickedRecipe(project.library, plain(body), worn, `Dearest look of ${b.name}`)
    const entry = await project.add('figure', recipe)
    figure.open(entry)
    await router.push('/bench')
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  }
}
const problems = computed(() => props.report.problems)

/** Something a look shows that nobody meant. */
interface Shown {
  key: string
  words: string
  much: string
  text: string
}
const TOLD = 8
const shownOf = (inner: string | null, body: string) => (inner ? nameOf(inner) : bodyName(body))
/** The worst of what was measured, over all bodies, with pictures as they come. */
const worst = computed((): Shown[] =>
  (props.report.tried ?? [])
    .flatMap((t) => t.worst.map((w) => ({ ...w, body: t.body })))
    .sort((a, b) => b.depth - a.depth)
    .slice(0, TOLD)
    .map(({ inner, outer, body, depth, places, text }) => ({
      ...{ key: `through ${inner} ${outer}`, text, much: `${(depth * 1000).toFixed(1)} mm, ${places} places` },
      words: `${shownOf(inner, body)} through ${nameOf(outer).toLowerCase()}`,
    })),
)
const holes = computed((): Shown[] =>
  (props.report.tried ?? [])
    .flatMap((t) => (t.open ?? []).map((h) => ({ ...h, body: t.body })))
    .sort((a, b) => b.area - a.area)
    .slice(0, TOLD)
    .map(({ inner, outer, body, area, text }) => ({
      ...{ key: `open ${inner} ${outer}`, text, much: `${Math.round(area * 1e4)} cm²` },
      words: `No ${shownOf(inner, body).toLowerCase()} beneath ${nameOf(outer).toLowerCase()}`,
    })),
)
const pictures = ref<Record<string, string>>({})
let run = 0
async function drawWorst(): Promise<void> {
  const own = ++run
  try {
    await drawAll(own)
  } catch (error) {
    // the numbers stand without their pictures
    if (own === run) message.value = error instanceof Error ? error.message : String(error)
  }
}
async function drawAll(own: number): Promise<void> {
  pictures.value = {}
  const { wardrobe } = await Wardrobe.open(new URL(props.address, location.href).href)
  if (!wardrobe || own !== run) return
  const looks = [...new Set([...worst.value, ...holes.value].map((w) => w.text))].map(
    (text) => lookFromText(wardrobe.manifest, text).look,
  )
  const earned = () => true
  for await (const look of drawLooks(wardrobe, looks, { width: 150, height: 230, earned })) {
    if (own !== run) return
    pictures.value[look.text] = look.picture
  }
}
onMounted(drawWorst)
watch(() => props.address, drawWorst)
onBeforeUnmount(() => run++)
</script>

<template>
  <div class="proof scroll" data-test="proof">
    <h2>Proved, not tried</h2>
    <p class="soft">
      What stands here holds for every look a player can make; none of it is measured on samples.
      <template v-if="stale"> It is of the package as it was last built.</template>
    </p>
    <Message v-if="message" severity="error" size="small">{{ message }}</Message>
    <section v-for="b in report.bodies" :key="b.id" :data-test="`proof-${b.id}`">
      <h3>
        {{ b.name }} <span class="soft">{{ b.options.length }} parts</span>
      </h3>
      <table>
        <thead>
          <tr>
            <th />
            <th>Least</th>
            <th>Most</th>
            <th>Limit</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in b.costs" :key="c.measure">
            <th>{{ MEASURES[c.measure] ?? c.measure }}</th>
            <td class="number">{{ shown(c.measure, c.least) }}</td>
            <td class="number" :class="{ over: c.most > c.limit }">{{ shown(c.measure, c.most) }}</td>
            <td class="number">{{ shown(c.measure, c.limit) }}</td>
            <td>
              <Button
                v-if="c.measure === 'triangles'"
                text
                size="small"
                label="See that look on the Bench"
                :data-test="`dearest-${b.id}`"
                @click="toBench(b, c.worn)"
              />
            </td>
          </tr>
          <tr v-if="b.morphs !== undefined">
            <th>morphs</th>
            <td class="number">{{ count(b.morphs) }}</td>
            <td class="number">{{ count(b.morphs) }}</td>
            <td />
            <td class="soft">of sliders and moods, the same in every look</td>
          </tr>
        </tbody>
      </table>
      <ul>
        <li v-for="f in faultsOf(b)" :key="f" class="bad">{{ f }}</li>
        <li v-for="[measure, l] in Object.entries(b.leaveOut ?? {})" :key="measure" class="bad">
          <template v-if="l.options"
            >Every look keeps to its {{ MEASURES[measure] ?? measure }} without
            {{ listed(l.options.map((o) => nameOf(o).toLowerCase()))
            }}{{
              l.options.length === l.atLeast ? '; nothing fewer would do' : `; at least ${l.atLeast} parts have to go`
            }}.
            <Button
              text
              size="small"
              label="Offer them no more"
              :data-test="`leave-out-${b.id}-${measure}`"
              @click="leaveOut(b.id, l.options)"
          /></template>
          <template v-else
            >No parts were found to leave out that would bring every look within its {{ MEASURES[measure] ?? measure }}:
            with less on, more of what lies beneath may be drawn.</template
          >
        </li>
        <li v-if="faultsOf(b).length + b.over.length === 0" class="good">
          Every part can be worn within the limits, no rule contradicts another, nobody is left bare.
        </li>
      </ul>
    </section>
    <section v-if="report.tried" data-test="tried">
      <h2>Measured, on looks that were put on</h2>
      <p class="soft">
        Every two parts that can be worn together were{{
          report.tried.every((t) => t.triples === undefined) ? '' : ', and every three that lie on each other'
        }}, with sliders as they begin and at both ends:
        <template v-for="(t, i) in report.tried" :key="t.body"
          >{{ i ? '; ' : '' }}{{ count(t.pairs) }} pairs{{
            t.triples === undefined ? '' : ` and ${count(t.triples)} triples`
          }}
          in {{ count(t.looks) }} looks of {{ bodyName(t.body) }}</template
        >. What comes through at the ends that does not at the start, the worst first:
      </p>
      <LookShelf :looks="worst" :pictures="pictures" @look="emit('look', $event)" />
      <template v-if="report.tried.every((t) => t.open)">
        <p class="soft">
          Where something that is left out beneath another can be seen at the ends, and cannot at the start, so that one
          looks into the figure:
        </p>
        <LookShelf :looks="holes" :pictures="pictures" @look="emit('look', $event)" />
      </template>
    </section>
    <ul v-if="problems.length">
      <li v-for="p in problems" :key="p.where + p.code" class="bad">{{ p.message }} {{ p.remedy }}</li>
    </ul>
  </div>
</template>

<style scoped>
.proof {
  height: 100%;
  padding: var(--s4) var(--s5);
  max-width: 860px;
  margin: 0 auto;
}

section {
  margin-top: var(--s4);
}

table {
  border-collapse: collapse;
  margin: var(--s2) 0;
}

th,
td {
  padding: 3px 14px 3px 0;
  text-align: left;
  border-bottom: 1px solid var(--rule);
  font-weight: 400;
}

thead th {
  color: var(--ink-soft);
  font-size: 12px;
}

td.number {
  text-align: right;
}

.over {
  color: var(--over);
  font-weight: 700;
}

ul {
  list-style: none;
  padding: 0;
  margin: var(--s2) 0;
}

li {
  position: relative;
  padding: 2px 0 2px 20px;
}

li::before {
  position: absolute;
  left: 2px;
  content: '!';
  font-weight: 700;
  color: var(--care);
}

li.good::before {
  content: '✓';
  color: var(--act);
}
</style>
