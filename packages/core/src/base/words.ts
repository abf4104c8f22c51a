/** Words that say the same of a thing, as makers of models name things. Which slot each belongs to, the slot's own words tell. */
const ALIKE: readonly (readonly string[])[] = [
  ['hat', 'cap', 'helmet', 'helm', 'hood', 'headwear', 'headgear', 'beanie', 'crown', 'bonnet', 'headscarf', 'tiara'],
  ['hair', 'hairstyle', 'haircut', 'ponytail', 'braid', 'bun', 'bob', 'curls', 'wig'],
  ['beard', 'moustache', 'mustache', 'goatee', 'whisker', 'sideburn'],
  ['brow', 'eyebrow'],
  ['eye', 'eyeball', 'iris', 'pupil'],
  ['shirt', 'tunic', 'blouse', 'jersey', 'sweater', 'top', 'bodice', 'tshirt', 'chemise', 'undershirt', 'pullover'],
  [
    'coat',
    'jacket',
    'cloak',
    'cape',
    'robe',
    'overcoat',
    'outer',
    'over',
    'waistcoat',
    'apron',
    'shawl',
    'poncho',
    'mantle',
  ],
  ['vest', 'waistcoat', 'gilet'],
  ['trouser', 'pant', 'leg', 'legwear', 'breech', 'jean', 'short', 'skirt', 'legging', 'wader', 'kilt'],
  ['boot', 'shoe', 'foot', 'feet', 'footwear', 'sandal', 'clog', 'slipper', 'sneaker'],
  ['glove', 'gauntlet', 'mitten', 'handwear', 'wristwrap', 'bracer'],
  ['belt', 'sash', 'girdle', 'waistband', 'buckle'],
  ['scarf', 'neckwear', 'collar', 'necklace', 'kerchief', 'bandana', 'amulet', 'necktie', 'frill', 'ruff'],
  ['back', 'backpack', 'rucksack', 'basket', 'quiver', 'wing', 'load', 'pack'],
  ['bag', 'satchel', 'pouch', 'purse'],
  ['horn', 'antler', 'tuft', 'crest'],
  ['spear', 'staff', 'oar', 'sword', 'lantern', 'torch', 'axe', 'hook', 'wand', 'weapon', 'pole'],
  ['book', 'ledger', 'mug', 'cup', 'shield', 'bottle', 'pearl', 'orb'],
  ['tail', 'fin'],
]

/** The words of a name, small and singular: “HatBrimmed_02.L” is hat, brimmed, l. */
export function wordsOf(name: string): string[] {
  return name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z]+/)
    .filter((word) => word !== '')
    .map((word) => (word.length > 3 && /[^s]s$/.test(word) ? word.slice(0, -1) : word))
}

/** The groups of words of one meaning that some words belong to, and the words themselves. */
export function meaningsOf(words: Iterable<string>): Set<string> {
  const all = new Set<string>()
  for (const word of words) {
    all.add(word)
    ALIKE.forEach((group, i) => group.includes(word) && all.add(`#${i}`))
  }
  return all
}

/** The name of a bone or limb without its side: "leftUpperArm" is "UpperArm". */
export const withoutSide = (name: string): string => name.replace(/^(left|right)(?=[A-Z])/, '')

/** The name of a bone in words: "leftUpperArm" is "Left upper arm", "tail12" is "Tail 12", "hair-braid" is "Hair braid". */
export function boneWords(name: string): string {
  const split = name
    .replace(/-/g, ' ')
    .replace(/([A-Z0-9]+)/g, ' $1')
    .replace(/ +/g, ' ')
    .toLowerCase()
    .trim()
  return split.charAt(0).toUpperCase() + split.slice(1)
}
