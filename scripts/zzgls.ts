import { packLayout, islandsOf, seededRandom } from '@jig-peel/core';
import { chartSet, cutSquare } from './packSets.ts';
import { outlinesOf, simplifiedOutward, offsetEdges, doubleArea } from '../core/src/pack/outline.ts';
import { turned, Separator, copyLayout, type Layout } from '../core/src/pack/separate.ts';
const [which='30', secs='2', res='256', seed='1'] = process.argv.slice(2);
const s = which==='40' ? cutSquare(40) : await chartSet(+which);
const R=+res;
let t0=performance.now();
const first = packLayout(s.mesh,s.set,{width:4096,height:4096,gap:0,borderGap:0,turn:'quarter',keepScale:false,resolution:512});
console.log('greedy', (100*first.report.coverage).toFixed(2), (performance.now()-t0).toFixed(0),'ms');
const loopsPx = outlinesOf(s.mesh, first.set, 4096, 4096);
const cell=4096/R;
let area=0, points=0, simple=0;
const pieces = loopsPx.map(loops=>{
  const scaled = loops.map(l=>l.map(x=>x/cell));
  area += scaled.reduce((a,l)=>a+doubleArea(l)/2,0);
  points += scaled.reduce((a,l)=>a+l.length/2,0);
  const simp = scaled.map(l=>simplifiedOutward(l,R*0.0012));
  simple += simp.reduce((a,l)=>a+l.length/2,0);
  return simp;
});
console.log('coverage by outlines', (100*area/R/R).toFixed(2), 'points', points/pieces.length, '->', simple/pieces.length);
const x0 = new Int32Array(pieces.length), y0=new Int32Array(pieces.length);
const edges = pieces.map((loops,i)=>{
  let mx=0,my=0,n=0; for(const l of loops) for(let k=0;k<l.length;k+=2){mx+=l[k]!;my+=l[k+1]!;n++;}
  x0[i]=Math.round(mx/n); y0[i]=Math.round(my/n);
  return offsetEdges(loops.map(l=>l.map((v,k)=>v-(k%2?y0[i]!:x0[i]!))),0);
});
const ex=+(process.env.EXP??1);
const sep = new Separator(edges.map(edges=>({edges,angles:[0],quarters:[0,1,2,3],isFixed:false})), R, Math.max(2,R/+(process.env.CO??64)), +seed, d=>Math.pow(d,ex)*Math.pow(255,1-ex));
(sep.kernel as any).SKIP.value=+(process.env.SKIP??99);(sep.kernel as any).KEEP.value=+(process.env.KEEP??6);(sep.kernel as any).PER.value=+(process.env.PER??3);
const maps={get computed(){return (sep.kernel.mapsMade as any).value}};
let best: Layout = {x:x0,y:y0,pose:new Int32Array(pieces.length)};
t0=performance.now();
const end = t0+ +secs*1000;
let S = R*1.0, step=0.01;
let left = sep.run(best,S,S,200,()=>false);
console.log('start separated', left, (performance.now()-t0).toFixed(0), 'maps', maps.computed, 'sweeps', sep.sweeps);
const rnd=seededRandom(+seed+99);

const G=+(process.env.GAIN??0.1),DKK=+(process.env.DK??0.98),PAT=+(process.env.PAT??200),SH=+(process.env.SH??0.007),EXPL=+(process.env.EXPL??0.8);
const areas=pieces.map(ls=>ls.reduce((a,l)=>a+doubleArea(l)/2,0));
const sorted=[...areas.keys()].sort((a,b)=>areas[b]!-areas[a]!);
let cur=copyLayout(best); let pool:{l:Layout,loss:number}[]=[]; let fails=0;
const endE=t0+ +secs*1000*EXPL;
while(performance.now()<endE){
  const T=S*(1-SH);
  left=sep.run(cur,T,T,PAT,()=>performance.now()>endE,G,DKK);
  if(left===0){best=copyLayout(cur);S=T;pool=[];fails=0; if(process.env.V)console.log(((performance.now()-t0)/1000).toFixed(2),(100*area/S/S).toFixed(2),'sweeps',sep.sweeps);}
  else { fails++;
    pool.push({l:copyLayout(cur),loss:left}); pool.sort((a,b)=>a.loss-b.loss); pool.length=Math.min(pool.length,20);
    // biased pick
    const k=Math.min(pool.length-1, Math.floor(Math.abs((rnd()+rnd()+rnd()-1.5))*pool.length*0.7));
    cur=copyLayout(pool[k]!.l);
    const n=pieces.length;
    const a=sorted[Math.floor(Math.pow(rnd(),1.5)*n*0.6)]!; let b=a; while(b===a) b=sorted[Math.floor(Math.pow(rnd(),1.5)*n*0.6)]!;
    [cur.x[a],cur.x[b]]=[cur.x[b]!,cur.x[a]!];[cur.y[a],cur.y[b]]=[cur.y[b]!,cur.y[a]!];
  }
}
console.log('explored',(100*area/S/S).toFixed(2),'fails',fails);
step=0.003;
while(performance.now()<end){
  const layout=copyLayout(best);
  const T=S*(1-step);
  left=sep.run(layout,T,T,PAT,()=>performance.now()>end,G,DKK);
  if(left===0){best=layout;S=T;step=Math.min(0.02,step*1.25);}
  else {step=Math.max(step*0.6,0.0003);}
}
console.log('end',(100*area/S/S).toFixed(2),'sweeps',sep.sweeps,'moves',(sep.kernel.movesMade as any).value,'maps',maps.computed);
import { writeFileSync } from 'node:fs';
let svg='<svg xmlns="http://www.w3.org/2000/svg" width="700" height="700" viewBox="0 0 '+S+' '+S+'"><rect width="100%" height="100%" fill="white"/>';
pieces.forEach((_,i)=>{const e=turned(edges[i]!,sep.angleOf(i,best.pose[i]!));let d='';for(let k=0;k<e.length;k+=4)d+=`M${e[k]!+best.x[i]!} ${e[k+1]!+best.y[i]!}L${e[k+2]!+best.x[i]!} ${e[k+3]!+best.y[i]!}`;svg+=`<path d="${d}" stroke="black" fill="none" stroke-width=".5"/>`;});
writeFileSync('/tmp/lay'+which+'.html',svg+'</svg>');
