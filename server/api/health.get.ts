export default defineEventHandler(() => ({ ok: true }))
