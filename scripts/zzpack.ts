import { packLayout, islandsOf } from '@jig-peel/core';
import { chartSet, cutSquare } from './packSets.ts';
import { outlinesOf, doubleArea } from '../core/src/pack/outline.ts';
import { searchLayout, type Placed } from '../core/src/pack/search.ts';
const [which='30', secs='5', res='512', free='0', gap='0', size='4096', seed='1'] = process.argv.slice(2);
const s = which==='40' ? cutSquare(40) : await chartSet(+which);
const W=+size, G=+gap;
let t0=performance.now();
const first = packLayout(s.mesh,s.set,{width:W,height:W,gap:G,borderGap:G,turn:'quarter',keepScale:false,resolution:+res});
const tg=performance.now()-t0;
let area=0;
const loopsAll = outlinesOf(s.mesh, first.set, W, W);
const n=loopsAll.length;
const start: Placed={scale:1,x:new Float64Array(n),y:new Float64Array(n),angle:new Float64Array(n)};
const pieces = loopsAll.map((loops,i)=>{
  let mx=0,my=0,k0=0; for(const l of loops) for(let k=0;k<l.length;k+=2){mx+=l[k]!;my+=l[k+1]!;k0++;}
  start.x[i]=mx/k0; start.y[i]=my/k0;
  area += loops.reduce((a,l)=>a+doubleArea(l)/2,0);
  return {loops:loops.map(l=>l.map((v,k)=>v-(k%2?start.y[i]!:start.x[i]!))),turns:4 as const,isFree:free==='1'};
});
t0=performance.now()-tg;
const total=+secs*1000;
const trace: string[]=[]; let next=0.5;
const r=searchLayout({width:W,height:W,gap:G,borderGap:G,obstacles:[]},pieces,start,{seed:+seed,rounds:+secs,isStopped:()=>false,better:p=>{const t=(performance.now()-t0)/1000; if(t>next){trace.push(`${t.toFixed(1)}:${(100*area*p.scale**2/W/W).toFixed(1)}`);next=t*1.4;}}});
console.log(s.name,'greedy',(100*first.report.coverage).toFixed(2),tg.toFixed(0),'ms ->',(100*area*r.scale**2/W/W).toFixed(2),'in',((performance.now()-t0)/1000).toFixed(1),'|',trace.join(' '));
