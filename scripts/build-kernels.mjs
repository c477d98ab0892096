// Compiles the pixel kernels to WebAssembly when their source is newer than what was built.
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, statSync, existsSync } from 'node:fs';
import { join } from 'node:path';

const source = 'packages/kernels/src/assembly';
const target = 'packages/kernels/dist/kernels.wasm';
const newest = Math.max(...readdirSync(source, { recursive: true }).map((f) => statSync(join(source, f)).mtimeMs));
if (!existsSync(target) || statSync(target).mtimeMs < newest) {
  mkdirSync('packages/kernels/dist', { recursive: true });
  const flags = [
    '--runtime',
    'stub',
    '--noAssert',
    '-O3',
    '--enable',
    'simd',
    '--importMemory',
    '--initialMemory',
    '1',
  ];
  execFileSync(
    process.execPath,
    ['node_modules/assemblyscript/bin/asc.js', `${source}/index.ts`, '-o', target, ...flags],
    {
      stdio: 'inherit',
      env: { ...process.env, NODE_OPTIONS: '' },
    },
  );
}
