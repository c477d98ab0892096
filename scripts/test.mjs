// npm test: installs what tests need, builds, then checks everything. Arguments name single steps: care, unit, zoo, interface.
import { join } from 'node:path';
import { BROWSER, installPackages, installPrograms, MEDIA_PROGRAMS, QUEUE, root, run, runTogether } from './setup.mjs';

const bin = (name) => join(root, 'node_modules/.bin', name);
const only = process.argv.slice(2);
const wants = (step) => only.length === 0 || only.includes(step);

await installPackages();
await installPrograms([...MEDIA_PROGRAMS, ...BROWSER, ...QUEUE]);
const { build } = await import('./build.mjs');
await build();
if (wants('care')) {
  console.log('· 1 of 4: the code is checked, about two minutes');
  await runTogether([
    [bin('eslint'), '.', '--max-warnings', '0'],
    [bin('tsc'), '-p', 'tsconfig.tests.json', '--noEmit'],
    [bin('tsc'), '-p', 'apps/web', '--noEmit'],
    [bin('depcruise'), '--config', '.dependency-cruiser.cjs', 'packages', 'apps', 'e2e', 'bench'],
    [bin('knip'), '--no-progress'],
    [bin('size-limit')],
    [process.execPath, 'scripts/notices.mjs', '--check'],
    [process.execPath, 'scripts/check-docs.mjs'],
    [bin('prettier'), '--check', '--log-level', 'warn', '.'],
  ]);
}
if (wants('unit')) {
  console.log('· 2 of 4: the core, files and the server, ten to twenty minutes');
  run(bin('jest'), ['--ci'], { env: { ...process.env, NODE_OPTIONS: '--experimental-vm-modules --no-warnings' } });
}
if (wants('zoo')) {
  console.log('· 3 of 4: files of every kind, about two minutes');
  run(process.execPath, ['bench/zoo/zoo.mjs'], { env: { ...process.env, NODE_OPTIONS: '' } });
}
if (wants('interface')) {
  console.log('· 4 of 4: the interface in a browser, ten to twenty minutes');
  run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts'], {
    env: { ...process.env, NODE_OPTIONS: '', IDLE_BEND_PREPARE_DEMO: '1' },
  });
}
