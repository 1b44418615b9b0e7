import { packLayout, seededRandom } from '@jig-peel/core';
import { chartSet, cutSquare } from './packSets.ts';
(globalThis as any).KEY=(i:any)=>i.area;
const rnd=seededRandom(5);
const keys:any={max:(i:any)=>Math.max(i.width,i.height),area:(i:any)=>i.area,box:(i:any)=>i.width*i.height,sum:(i:any)=>i.width+i.height,min:(i:any)=>Math.min(i.width,i.height),mix:(i:any)=>Math.max(i.width,i.height)+0.5*Math.sqrt(i.area)};
for (const w of process.argv.slice(2)) {
  const s = w==='40'?cutSquare(40):await chartSet(+w);
  for (const k of Object.keys(keys)) {
   const out:string[]=[];
   for(const noise of [0,0.1,0.1,0.1,0.25,0.25]){
    (globalThis as any).KEY=(i:any)=>keys[k](i)*(1+noise*(rnd()-0.5));
    const t1=performance.now();
    const r = packLayout(s.mesh,s.set,{width:4096,height:4096,gap:0,borderGap:0,turn:'quarter',keepScale:false,resolution:1024});
    out.push((100*r.report.coverage).toFixed(2)+'/'+(performance.now()-t1).toFixed(0));
   }
   console.log(s.name,k,out.join(' '));
  }
}
