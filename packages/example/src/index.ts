export { DressingRoom, type RoomOptions } from './DressingRoom.ts'
export { drawLooks, type DrawnLook } from './drawLooks.ts'
