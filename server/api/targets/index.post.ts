import { Type } from '@sinclair/typebox'
import { readTarget } from '@idle-tinker/core'
import { addTarget } from '../../db/targets'
import { accepted, jsonBody, refuse } from '../../utils/answers'

export default defineEventHandler(async (event) => {
  const target = accepted(readTarget(await jsonBody(event, Type.Unknown()), 'body'))
  if (!(await addTarget(target)))
    throw refuse(409, 'There already', `There is a target “${target.id}” already. Nothing was overwritten.`)
  setResponseStatus(event, 201)
  return { id: target.id, version: 1, target }
})
