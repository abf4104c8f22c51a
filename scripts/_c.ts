import { readFileSync } from 'node:fs'
import { Builder, readMix, reducerReady, selectCrowd, shipFigure, clipsOf, writeFigure, checkShipped, Shelf } from '@idle-tinker/core'
import { readKitFolders, readShelf } from '../packages/cli/src/files.ts'
import { findTarget } from '../packages/cli/src/findTarget.ts'
await reducerReady
const root='/work/main'
const { kits } = await readKitFolders([root+'/kits'])
const N=Number(process.argv[2]??300)
const mix = {...readMix(readFileSync(root+'/kits/lantern-tide/quay-at-noon.mix.json','utf8')).value!,count:N}
const target=(await findTarget('crowd',[root+'/kits'])).value!
let t0=performance.now()
const crowd=selectCrowd(mix,kits)
console.log('select',(performance.now()-t0).toFixed(0))
const shelf=await readShelf()
const count=(s:any)=>{const k:any={};let bytes=0;for(const [key,a] of s.results){const n=key.split(' ')[0];k[n]??=[0,0];k[n][0]++;for(const x of Object.values(a) as any[]){k[n][1]+=x.byteLength}};return JSON.stringify(k)}
console.log(shelf.size,count(shelf))
import { Session } from 'node:inspector/promises'
import { writeFileSync } from 'node:fs'
const ses=new Session();ses.connect();await ses.post('Profiler.enable')
for(let round=0;round<2;round++){
if(round===1)await ses.post('Profiler.start')
const b=new Builder(kits,shelf)
const sum:any={build:0,clips:0,write:0,check:0}; let all=0
const outfits=new Set()
for(const [i,{recipe}] of crowd.variants.entries()){
 let t=performance.now(); const mark=(k:string)=>{const n=performance.now();sum[k]+=n-t;all+=n-t;t=n}
 const {figure}=b.build(recipe,target,{reduce:true}); mark('build')
 const clips=clipsOf(figure!,kits,recipe); mark('clips')
 const bytes=writeFigure({figure:figure!,clips,recipe,target}); mark('write')
 await checkShipped(bytes); mark('check')
 outfits.add(JSON.stringify(recipe.parts.map((p:any)=>p.part)))
 if((i+1)%100===0){console.log(i+1,Object.entries(sum).map(([k,v]:any)=>k+' '+(v/100).toFixed(1)).join('  '),'rss',(process.memoryUsage().rss/1e6).toFixed(0),'outfits',outfits.size);for(const k in sum)sum[k]=0}
}
console.log('round',round,(all/1000).toFixed(1),'s',shelf.size,count(shelf))
}

writeFileSync('/tmp/cpz/p.cpuprofile',JSON.stringify((await ses.post('Profiler.stop')).profile))
