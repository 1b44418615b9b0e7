import { packLayout, islandsOf, islandFacts } from '@jig-peel/core';
import { chartSet, cutSquare } from './packSets.ts';
for (const get of [() => chartSet(30), () => chartSet(150), () => chartSet(600), async () => cutSquare(40)]) {
  const t0=performance.now();
  const s = await get();
  const t1=performance.now();
  const n = islandsOf(s.mesh,s.set).count;
  const facts = islandFacts(s.mesh,s.set);
  const r = packLayout(s.mesh,s.set,{width:4096,height:4096,gap:0,borderGap:0,turn:'quarter',keepScale:false});
  console.log(s.name,n,facts.filter(f=>f.unplaced).length,'set',(t1-t0).toFixed(0),'pack',(performance.now()-t1).toFixed(0),(100*r.report.coverage).toFixed(2));
}
