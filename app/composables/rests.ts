import type { Convention } from '@idle-tinker/core'

/** How a figure may stand at rest, in words; in a pose besides. */
export const RESTS: readonly { id: Exclude<Convention['rest'], 'pose'>; name: string }[] = [
  { id: 'built', name: 'As it was built' },
  { id: 't', name: 'T: arms straight out' },
  { id: 'a', name: 'A: arms half way down' },
  { id: 'hanging', name: 'Arms hanging' },
]

/** How a target wants figures to stand at rest, in words. */
export function restWords({ rest, pose }: Convention): string {
  if (rest === 'pose') return pose ? `in the pose “${pose.name}”` : 'in a pose that is not chosen yet'
  const { name } = RESTS.find((r) => r.id === rest)!
  return name.replace(/^A(?=s)/, 'a')
}
