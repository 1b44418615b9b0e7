import { packLayout } from '@jig-peel/core';
import { chartSet, cutSquare } from './packSets.ts';
import { outlinesOf, simplifiedOutward, offsetEdges, doubleArea } from '../core/src/pack/outline.ts';
import { NearSeparator, copyStand, type Stand } from '../core/src/pack/separateNear.ts';
const [which='30', secs='5', res='1024',spin='0'] = process.argv.slice(2);
const s = which==='40' ? cutSquare(40) : await chartSet(+which);
const R=512;
let t0=performance.now();
const first = packLayout(s.mesh,s.set,{width:4096,height:4096,gap:0,borderGap:0,turn:'quarter',keepScale:false,resolution:+res});
console.log('greedy', (100*first.report.coverage).toFixed(2), (performance.now()-t0).toFixed(0),'ms');
const cell=4096/R; let area=0, simple=0;
const pieces = outlinesOf(s.mesh, first.set, 4096, 4096).map(loops=>{
  const scaled = loops.map(l=>l.map(x=>x/cell));
  area += scaled.reduce((a,l)=>a+doubleArea(l)/2,0);
  const simp = scaled.map(l=>simplifiedOutward(l,R*0.0003));
  simple += simp.reduce((a,l)=>a+l.length/2,0);
  return simp;
});
console.log('points', simple/pieces.length);
const n=pieces.length;
let best: Stand={x:new Float64Array(n),y:new Float64Array(n),angle:new Float64Array(n)};
const edges = pieces.map((loops,i)=>{
  let mx=0,my=0,k0=0; for(const l of loops) for(let k=0;k<l.length;k+=2){mx+=l[k]!;my+=l[k+1]!;k0++;}
  best.x[i]=mx/k0; best.y[i]=my/k0;
  return offsetEdges(loops.map(l=>l.map((v,k)=>v-(k%2?best.y[i]!:best.x[i]!))),0);
});
const RC=+(process.env.RC??256), CO=+(process.env.CO??2), LE=+(process.env.LE??0.2);
t0=performance.now(); const end=t0+ +secs*1000;
const sep=new NearSeparator(edges.map(edges=>({edges,angles:[0],quarters:[0,1,2,3],isFixed:false})),1,d=>Math.sqrt(d), LE>0?{scale:RC/R,cells:RC,coarse:CO}:null);
let g=1, eps=+(process.env.EPS??0.004);
console.log('setup',(performance.now()-t0).toFixed(0));
let tr='',nx=0.5;
while(performance.now()<end && eps>2e-5){
  const c=copyStand(best); const f=1+eps;
  if(!sep.setEdges(edges.map(e=>e.map(v=>v*g*f)))) throw new Error('room');
  const step=R*eps/+(process.env.DIV??3);
  const left=sep.run(c,R,R,{step,spin:+spin,patience:+(process.env.PAT??60),grown:g*f,leaps:LE,isOver:()=>performance.now()>end});
  if(left===0){g*=f;best=c;eps*=1.25; const t=(performance.now()-t0)/1000; if(t>nx){tr+=` ${t.toFixed(1)}:${(100*area*g*g/R/R).toFixed(1)}`;nx=t*1.4;}}
  else eps=Math.max(+(process.env.MIN??1e-5),eps*0.6);
}
console.log(tr);
const S=R/g;
console.log('end',(100*area/S/S).toFixed(2),'sweeps',sep.sweeps,'leaps',(sep.kernel.leaps as any).value,'moves',(sep.kernel.movesMade as any).value,((performance.now()-t0)/1000).toFixed(1),'s');
