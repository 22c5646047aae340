import { readFileSync } from 'node:fs';
import { parseRecipe } from '@/core/recipe';
import { RenderPool } from '@/render/pool/pool';
import { spawnInline } from '@/render/pool/spawn-inline';
import { SHOTS } from '@/core/shots';
const files=process.argv.slice(3); const rounds=Number(process.argv[2]);
const mods=files.map(f=>new WebAssembly.Module(readFileSync(f)));
const recipe=parseRecipe({size:{width:160,height:90,scale:100},sampling:{cameraMin:4,cameraMax:4,adapt:"even",stopNoise:0}});
for(const shot of Object.keys(SHOTS)){
  const scene=(SHOTS as any)[shot]();
  const pools=[];for(const m of mods){const p=new RenderPool(m,spawnInline,1);await p.load(scene);await p.render(scene,recipe,scene.document.cameras[0]);pools.push(p);}
  const t:number[][]=files.map(()=>[]);
  for(let i=0;i<rounds;i++)for(let k=0;k<mods.length;k++){const r=await pools[k].render(scene,recipe,scene.document.cameras[0]);t[k].push(r.traceMs);}
  const med=(a:number[])=>[...a].sort((x,y)=>x-y)[a.length>>1];
  console.log(shot,files.map((f,k)=>`${f.split('/').pop()} med ${med(t[k]).toFixed(0)} least ${Math.min(...t[k]).toFixed(0)} ×${(med(t[0].map((v,i)=>v/t[k][i]))).toFixed(3)}`).join(' | '));
  for(const p of pools)p.close();
}
