import { listMixes } from '../../db/mixes'

export default defineEventHandler(() => listMixes())
