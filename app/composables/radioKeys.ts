const STEPS: Readonly<Record<string, number>> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }

/** Arrow keys, Home and End in a group of radios: the next one is focused and chosen. For `keydown` of the group. */
export function radioKeys(event: KeyboardEvent): void {
  const radios = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('[role="radio"]')]
  const at = radios.indexOf(document.activeElement as HTMLElement)
  const step = STEPS[event.key]
  const to =
    event.key === 'Home'
      ? 0
      : event.key === 'End'
        ? radios.length - 1
        : step === undefined
          ? -1
          : (at + step + radios.length) % radios.length
  if (at < 0 || to < 0) return
  event.preventDefault()
  radios[to]!.focus()
  radios[to]!.click()
}
