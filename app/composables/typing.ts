/** Is a key pressed there part of a text that is being written? */
export function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
}

/** Is something open over the page that takes keys for itself? */
export function covered(): boolean {
  return document.querySelector('[role="dialog"], [role="alertdialog"], .p-select-overlay') !== null
}
