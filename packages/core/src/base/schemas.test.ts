import Ajv from 'ajv'
import { describe, expect, it } from 'vitest'
import * as mix from '../crowd/mix.ts'
import * as mixV1 from '../crowd/mixV1.ts'
import * as mixV2 from '../crowd/mixV2.ts'
import * as kit from '../kit/schema.ts'
import * as plan from '../kit/plan.ts'
import * as match from '../motion/foreign/matchMotion.ts'
import * as motion from '../motion/foreign/motionDocument.ts'
import * as clip from '../motion/keys/keptClip.ts'
import * as pose from '../motion/poses/keptPose.ts'
import * as manifest from '../picks/package/manifest.ts'
import * as picks from '../picks/picks.ts'
import * as kept from '../recipe/kept.ts'
import * as license from '../recipe/license.ts'
import * as recipeV1 from '../recipe/recipeV1.ts'
import * as recipe from '../recipe/schema.ts'
import * as target from '../recipe/target.ts'
import * as targetV1 from '../recipe/targetV1.ts'

const rooms = [mix, mixV1, mixV2, kit, plan, match, motion, clip, pose]
const more = [manifest, picks, kept, license, recipeV1, recipe, target, targetV1]
const schemas = [...rooms, ...more].flatMap((room) =>
  Object.entries(room).filter(([name]) => /Schema$/.test(name)),
) as unknown as [string, object][]

// what checks documents takes its schemas as they are: that each is one is seen here
describe('schemas', () => {
  it.each(schemas)('%s is a JSON Schema', (_, schema) => {
    const ajv = new Ajv({ strict: false })
    expect(ajv.validateSchema(schema), ajv.errorsText()).toBe(true)
  })

  it('are those of every kind of document', () => {
    expect(schemas.length).toBeGreaterThan(30)
  })
})
