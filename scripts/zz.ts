import { demoJob } from '../demo/src/props.ts';
const j = await demoJob();
console.log(j.sheets?.map(s=>s.id+' '+s.name)); console.log(j.parts.map(p=>p.name+' '+p.sheet+' '+p.mesh.materials.join('/')));
