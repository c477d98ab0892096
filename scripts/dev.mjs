// npm run dev: rebuilds on change, restarts the server, serves the interface with Vite on its own port.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { installPackages, installPrograms, MEDIA_PROGRAMS, root } from './setup.mjs';

await installPackages();
await installPrograms(MEDIA_PROGRAMS);
const { build } = await import('./build.mjs');
await build();
const bin = (name) => join(root, 'node_modules/.bin', name);
const children = [
  spawn(bin('tsc'), ['-b', '--watch', '--preserveWatchOutput'], { stdio: 'inherit' }),
  spawn(process.execPath, ['--watch', 'apps/server/dist/main.js', '--demo', '--dev'], { stdio: 'inherit' }),
  spawn(bin('vite'), [], { stdio: 'inherit', cwd: join(root, 'apps/web') }),
];
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => children.forEach((child) => child.kill(signal)));
