import { packLayout } from '@jig-peel/core';
import { chartSet, cutSquare } from './packSets.ts';
for (const w of process.argv.slice(2)) {
  const s = w==='40'?cutSquare(40):await chartSet(+w);
  for (const resolution of [1024,2048,4096]) {
  const t1=performance.now();
  const r = packLayout(s.mesh,s.set,{width:4096,height:4096,gap:0,borderGap:0,turn:'quarter',keepScale:false,resolution});
  console.log(s.name,resolution,'pack',(performance.now()-t1).toFixed(0),(100*r.report.coverage).toFixed(2),r.report.tries);
  }
}
