// npm run soak: the long forms of what npm test asks for briefly. Arguments name single ones: kills, load, browser. --kills N, --minutes M.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { BROWSER, installPackages, installPrograms, MEDIA_PROGRAMS, root, run } from './setup.mjs';

const args = process.argv.slice(2);
const option = (name, other) => (args.includes(`--${name}`) ? Number(args[args.indexOf(`--${name}`) + 1]) : other);
const only = args.filter((arg) => ['kills', 'load', 'browser'].includes(arg));
const wants = (name) => only.length === 0 || only.includes(name);

await installPackages();
await installPrograms([...MEDIA_PROGRAMS, ...BROWSER]);
const { build } = await import('./build.mjs');
await build();

if (wants('kills')) {
  const kills = option('kills', 100);
  console.log(`\nkills: the server is ended without warning ${kills} times while it imports, keeps edits and renders`);
  const env = {
    ...process.env,
    NODE_OPTIONS: '--experimental-vm-modules --no-warnings',
    IDLE_BEND_KILLS: String(kills),
  };
  run(join(root, 'node_modules/.bin/jest'), ['--ci', 'apps/server/test/kill.test.ts'], { env });
}
if (wants('load')) run(process.execPath, ['scripts/bench.mjs', 'load']);
if (wants('browser')) {
  const { soakBrowser } = await import('../e2e/soak-browser.mjs');
  const data = mkdtempSync(join(tmpdir(), 'idle-bend-soak-'));
  const server = spawn(process.execPath, ['apps/server/dist/main.js', '--demo', '--port', '0', '--data', data], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    const url = await new Promise((resolve) =>
      server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
    );
    const minutes = option('minutes', 60);
    console.log(`\nbrowser: ${minutes} minutes of edits drawn at random on the bench`);
    const { edits, heaps, grows } = await soakBrowser(url, minutes * 60, (line) => console.log(`  ${line}`));
    console.log(
      `  ${edits} edits; heap ${heaps.map((h) => h.toFixed(0)).join(', ')} MB; it grows by ${grows.toFixed(2)} MB an hour's tenth (wanted: less than 2)`,
    );
    if (grows >= 2) process.exitCode = 1;
  } finally {
    server.kill();
    rmSync(data, { recursive: true, force: true });
  }
}
