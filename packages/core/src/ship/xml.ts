/** Text as it may stand in XML. */
export const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)

/** An element with its attributes, which are escaped, and what stands in it, which is not. */
export function element(
  name: string,
  attributes: Readonly<Record<string, string>>,
  ...content: readonly string[]
): string {
  const said = Object.entries(attributes).map(([key, value]) => ` ${key}="${escaped(value)}"`)
  const inside = content.join('')
  return inside ? `<${name}${said.join('')}>${inside}</${name}>` : `<${name}${said.join('')}/>`
}
