import base from './vitest.config.ts'
const b = base as any
for (const p of b.test.projects) if (p.test.name==='unit'||p.test.name==='app') { p.test.setupFiles=['./prof.local.setup.ts'] }
export default b
