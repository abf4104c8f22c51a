import {
  choicesOf,
  hasErrors,
  loadProver,
  patchesOf,
  prepareBody,
  problem,
  provePicks as prove,
  readPicks,
  type ChoiceRule,
  type Contradiction,
  type LeftOut,
  type Problem,
  type Proof,
} from '@idle-tinker/core'
import { readKitFolders, readShelf, readText } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import type { Voice } from '../Voice.ts'

export interface ProveOptions {
  target: string
  kits: string[]
}

/** Proves of a package that no choice of a player goes over the target, breaks a rule or leaves somebody bare. */
export async function provePicks(input: string, options: ProveOptions, voice: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return voice.tell(text.problems)
  const read = readPicks(text.value, input)
  const target = await findTarget(options.target, options.kits)
  const { kits, problems } = await readKitFolders(options.kits)
  let code = voice.tell([...read.problems, ...target.problems, ...problems])
  if (!read.value || !target.value || hasErrors(problems)) return code || 1
  const prover = await loadProver()
  const { detail } = target.value
  const { triangles, bones } = target.value.limits
  for (const [i, pick] of read.value.bodies.entries()) {
    const { choices, problems: told } = choicesOf(pick, kits, `${input}/bodies/${i}`)
    code = Math.max(code, voice.tell(told))
    const model = kits.get(pick.body.kit)?.bodies.get(pick.body.id)
    if (!model || hasErrors(told)) continue
    const pieces = patchesOf(prepareBody(model, await readShelf()), choices, kits, detail)
    const proof = prove(prover, { ...choices, pieces }, { triangles, bones }, pick.covered)
    code = Math.max(code, voice.tell('costs' in proof ? faultsOf(proof, pick.name) : nothingToChoose(proof, pick.name)))
    if ('costs' in proof) say(proof, pick.name, voice)
  }
  return code
}

function say(proof: Proof, name: string, voice: Voice): void {
  for (const [measure, { most, least }] of Object.entries(proof.costs))
    voice.say(`${name}: ${least} to ${most.cost} ${measure}, proved over every choice`, {
      ...{ body: name, measure, least, most: most.cost, chosen: most.chosen, worn: most.worn },
    })
}

function faultsOf(proof: Proof, name: string): Problem[] {
  return [
    ...proof.over.map((measure) => {
      const { cost, worn } = proof.costs[measure]!.most
      return problem(
        'picks-over',
        name,
        `Some choices have ${cost} ${measure}, more than the target allows: ${worn.join(', ')}.`,
        changeOf(proof.leaveOut[measure]),
      )
    }),
    ...proof.tooMuch.map(({ option, measure, least }) =>
      problem(
        'picks-too-much',
        name,
        `With “${option}” there are ${least} ${measure} at least, more than the target allows.`,
        'Leave it out, or make it lighter.',
      ),
    ),
    ...proof.unreachable.map(({ option, why }) =>
      problem(
        'picks-unreachable',
        name,
        `“${option}” is never worn: ${reasonOf(why)}.`,
        'Leave it out, or change that.',
      ),
    ),
    ...proof.bare.map(({ region, share, choice }) =>
      problem(
        'picks-bare',
        name,
        `A player can leave ${Math.round(share * 100)} % of “${region}” bare: with ${choice.worn.join(', ') || 'nothing on'}.`,
        'Say of a slot that covers it that something has to be on.',
      ),
    ),
  ]
}

/** The least change of the offer after which every choice fits. */
function changeOf(out: LeftOut | undefined): string {
  if (!out?.options) return 'Leave out what costs most, say what does not go together, or choose another target.'
  const fewest = out.options.length === out.atLeast ? 'nothing fewer would do' : `at least ${out.atLeast} have to go`
  return `Every choice fits without ${out.options.join(', ')}: ${fewest}. Or choose another target.`
}

const nothingToChoose = (why: Contradiction, name: string): Problem[] => [
  problem('picks-none', name, `There is no choice that meets all rules: ${reasonOf(why)}.`, 'Change one of them.'),
]

function reasonOf({ rules, groups }: Contradiction): string {
  const all = [...rules.map(ruleWords), ...groups.map((g) => `in “${g}” something has to be on`)]
  return all.join('; ') || 'it is not there'
}

function ruleWords(rule: ChoiceRule): string {
  if (rule.kind === 'needs') return `“${rule.one}” wants ${rule.oneOf.join(' or ') || 'what is no choice here'}`
  if (rule.kind === 'covers') return `“${rule.one}” takes the place of others`
  const words = rule.kind === 'excludes' ? 'does not go with' : 'goes only with'
  return `“${rule.one}” ${words} “${rule.other}”`
}
