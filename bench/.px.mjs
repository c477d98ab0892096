import { execFileSync } from 'node:child_process';
import { readdirSync, mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import { joinPieces, openSource, writePieces } from '/work/main/packages/media/dist/index.js';
const SCALE = 'scale=960:540:flags=bicubic+accurate_rnd+full_chroma_int';
const CODING='-c:v libx264 -preset veryfast -tune fastdecode -crf 20 -g 12 -keyint_min 12 -sc_threshold 0 -bf 0'.split(' ');
const folder=mkdtempSync('/tmp/px-');
let A=0,B=0;
for (const n of readdirSync('demo/footage').filter(n=>n.endsWith('.mp4'))) {
  if (process.argv[2] && !n.includes(process.argv[2])) continue;
  const f=join('demo/footage',n);
  let t=performance.now();
  const source=await openSource(f);
  const t1=performance.now();
  await writePieces(source, join(folder,'pieces'), {from:0,onFrame:()=>undefined});
  await joinPieces(source, join(folder,'pieces'), join(folder,'proxy.mp4'));
  const a=performance.now()-t; const op=t1-t;
  t=performance.now();
  execFileSync('ffmpeg',['-v','error','-nostdin','-y','-i',f,'-vf',SCALE,'-an',...CODING,join(folder,'plain.mp4')]);
  const b=performance.now()-t; A+=a;B+=b;
  console.log(n, source.index.grid.frames, 'ours',a.toFixed(0),'open',op.toFixed(0),'plain',b.toFixed(0),(b/a).toFixed(2));
}
console.log((B/A).toFixed(2));
