import { workshop } from '../workers'

/** The helper points of the figure on the stage, by the bones it has there, and the one that is pointed at. */
export function useHelperPoints() {
  const { told: points, wanted: shown } = useOfFigure((...of) => workshop('bench').helperPoints(...of))
  return { points, shown, lit: ref<string | null>(null) }
}
