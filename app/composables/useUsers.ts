import { fullName, refOf, type KitRef } from '@idle-tinker/core'
import { useProject } from '../stores/project'

/** Who in the project is made with something of a kit. */
export interface Users {
  figures: { id: string; name: string }[]
  mixes: { id: string; name: string }[]
  /** Starting looks and snapshots of the project, and looks that kits bring. */
  looks: { id: string; name: string }[]
}

/** So many are named; the others are counted. */
const MOST_NAMED = 14

/** All of them by name, for a sentence; empty where there is nobody. */
export function nameUsers({ figures, mixes, looks }: Users): string {
  const names = [...figures, ...mixes, ...looks].map((u) => `“${u.name}”`)
  const more = names.length - MOST_NAMED
  return names.slice(0, MOST_NAMED).join(', ') + (more > 0 ? ` and ${more} more` : '')
}

/** Who uses a kit, or one part of it. */
export function useUsers() {
  const project = useProject()

  function usersOf(kit: string, part: string | null = null): Users {
    const names = ({ kit: from, id }: KitRef) => from === kit && (part === null || id === part)
    const madeOf = ({ body, parts }: { body: KitRef; parts: readonly { part: KitRef }[] }) =>
      (part === null && body.kit === kit) || parts.some((p) => names(p.part))
    const named = (list: readonly { id: string; name: string }[]) => list.map(({ id, name }) => ({ id, name }))
    const mixes = project.mixes.filter(({ content }) =>
      content.kinds.some(
        (kind) =>
          (part === null && kind.body.kit === kit) ||
          Object.values(kind.slots).some((choices) =>
            choices.some((c) => c.part !== null && names(refOf(c.part, kind.body.kit))),
          ),
      ),
    )
    const brought = project.kits.flatMap(({ manifest }) =>
      // what a kit brings goes with it
      (part === null && manifest.id === kit ? [] : (manifest.looks ?? []))
        .filter((look) => [look.body, ...look.parts].some((name) => names(refOf(name, manifest.id))))
        .map((look) => ({ id: fullName({ kit: manifest.id, id: look.id }), name: look.name })),
    )
    return {
      figures: named(project.figures.filter((f) => madeOf(f.content))),
      mixes: named(mixes),
      looks: [...named(project.documents.kept.filter((k) => madeOf(k.content.recipe))), ...brought],
    }
  }
  return { usersOf }
}
