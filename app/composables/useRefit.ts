import { bodyOf, namesBody, partsFor, slotsFor, type KitPart, type KitRef } from '@idle-tinker/core'
import { useProject } from '../stores/project'

/** Parts that are made for other bodies: which could be carried over, and where they come to be. */
export function useRefit() {
  const project = useProject()
  const planOf = (body: KitRef) => bodyOf(project.library, body)?.plan

  /** Whether anything can be carried over between two bodies: they have bones of one plan. */
  const isAkin = (a: KitRef, b: KitRef) => planOf(a) !== undefined && planOf(a) === planOf(b)

  /** The kit that takes up what is carried over: one for each kit it comes from and body it goes to. */
  function intoKit(part: KitRef, to: KitRef): { id: string; name: string } {
    const body = to.kit === part.kit ? to.id : `${to.kit}-${to.id}`
    const name = `${project.manifest(part.kit)?.name} on ${bodyOf(project.library, to)?.name.toLowerCase()}`
    return { id: `${part.kit}-on-${body}`.slice(0, 64), name: name.slice(0, 80) }
  }

  /**
   * Parts that other bodies of the plan have, and on which body each is at home: those for a slot, or, for null, those
   * for slots that this body lacks.
   */
  function fromOthers(body: KitRef, slot: string | null): (KitPart & { home: KitRef })[] {
    const found = new Map<string, KitPart & { home: KitRef }>()
    const own = new Set(slotsFor(project.library, body).map((s) => s.id))
    for (const { kit, id } of project.bodies) {
      const home = { kit, id }
      if (!isAkin(home, body) || (kit === body.kit && id === body.id)) continue
      const slots = slotsFor(project.library, home).filter((s) => (slot === null ? !own.has(s.id) : s.id === slot))
      for (const part of slots.flatMap((s) => partsFor(project.library, home, s.id))) {
        const { def } = part
        if (namesBody(def.bodies, part.kit, body) || def.how === 'replaces' || def.bones?.length) continue
        // it has been carried over already
        const into = intoKit({ kit: part.kit, id: def.id }, body).id
        if (project.manifest(into)?.parts.some((p) => p.id === def.id)) continue
        const key = `${part.kit}/${def.id}`
        if (!found.has(key)) found.set(key, { ...part, home })
      }
    }
    return [...found.values()]
  }
  return { isAkin, intoKit, fromOthers }
}
