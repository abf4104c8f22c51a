import type { KitManifest } from '@idle-tinker/core'

type ReadyPose = NonNullable<KitManifest['poses']>[number]

/** A pose by the moment of a clip that it is. */
const pose = (id: string, name: string, clip: string, at: number): ReadyPose => ({ id, name, clip, at })

/** Of all on two legs. */
export const POSES: ReadyPose[] = [
  pose('standing', 'Standing', 'idle', 0),
  pose('hands-on-hips', 'Hands on hips', 'idle-hips', 0.5),
  pose('in-stride', 'In stride', 'walk', 0),
  pose('running', 'Running', 'run', 0.12),
  pose('waving', 'Waving', 'wave', 0.45),
  pose('pointing', 'Pointing', 'point', 0.5),
  pose('haggling', 'Haggling', 'haggle', 0.3),
  pose('cheering', 'Cheering', 'cheer', 0.5),
  pose('hauling', 'Hauling', 'haul-rope', 0.4),
  pose('sitting', 'Sitting', 'sit', 0.2),
  pose('mending', 'Mending', 'mend-net', 0.3),
  pose('lying', 'Lying', 'lie', 0.5),
  pose('leaping', 'Leaping', 'jump', 0.45),
]

/** Of those on four. */
export const TIDE_POSES: ReadyPose[] = [
  pose('wader-standing', 'Standing', 'wader-idle', 0),
  pose('wader-striding', 'Striding', 'wader-walk', 0.2),
  pose('wader-drinking', 'Drinking', 'wader-drink', 0.5),
  pose('wader-preening', 'Preening', 'wader-preen', 0.5),
  pose('wader-startled', 'Startled', 'wader-startle', 0.3),
  pose('hopper-resting', 'Resting', 'hopper-idle', 0),
  pose('hopper-croaking', 'Croaking', 'hopper-croak', 0.5),
  pose('hopper-snapping', 'Snapping', 'hopper-snap', 0.45),
  pose('hopper-leaping', 'Leaping', 'hopper-leap', 0.5),
]
