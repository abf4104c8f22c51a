import { bodyOf, planOf, type BodyPlan } from '@idle-tinker/core'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'

/** The plan of the body of the figure that is open; null where its kit is not here. */
export function usePlan() {
  const figure = useFigure()
  const project = useProject()
  return computed((): BodyPlan | null => {
    const body = figure.recipe?.body
    const def = body && bodyOf(project.library, body)
    return (def && planOf(project.library.get(body.kit)!.manifest, def.plan)) ?? null
  })
}
