type Attributes = Record<string, string | boolean | ((event: Event) => void)>

/** An element with attributes, listeners (`onclick` …) and what is in it. */
export function h<K extends keyof HTMLElementTagNameMap>(
  name: K,
  attributes: Attributes = {},
  ...inside: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const element = document.createElement(name)
  for (const [key, value] of Object.entries(attributes)) {
    if (typeof value === 'function') element.addEventListener(key.slice(2), value)
    else if (typeof value === 'boolean') element.toggleAttribute(key, value)
    else element.setAttribute(key, value)
  }
  element.append(...inside)
  return element
}
