// npm run demo: installs what is missing, builds, starts the server with the demo project and prints the address.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { installPackages, installPrograms, MEDIA_PROGRAMS, root } from './setup.mjs';

await installPackages();
await installPrograms(MEDIA_PROGRAMS);
const { build } = await import('./build.mjs');
await build();
const child = spawn(process.execPath, [join(root, 'apps/server/dist/main.js'), '--demo', ...process.argv.slice(2)], {
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
child.on('exit', (code) => process.exit(code ?? 0));
