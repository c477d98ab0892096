// Compiles everything that is newer than its output: kernels, packages, server, command line, interface.
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, run, saying } from './setup.mjs';

const bin = (name) => join(root, 'node_modules/.bin', name);

/** The files below a folder that are written by people, and the last time one of them was. */
function written(folder) {
  let [time, count] = [0, 0];
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist') continue;
    const path = join(folder, entry.name);
    const inside = entry.isDirectory() ? written(path) : { time: statSync(path).mtimeMs, count: 1 };
    [time, count] = [Math.max(time, inside.time), count + inside.count];
  }
  return { time, count };
}

/** What everything was made of when it was made last; where it still is, nothing has to be looked at more closely. */
const STAMP = join(root, 'node_modules/.idle-bend-built');
const MADE = [
  'apps/server/dist/main.js',
  'apps/cli/dist/main.js',
  'packages/media/dist/media.js',
  'apps/web/dist/index.html',
];

const stateNow = () =>
  JSON.stringify([
    ...['packages', 'apps', 'scripts'].map((name) => written(join(root, name))),
    ...['package-lock.json', 'tsconfig.json', 'tsconfig.base.json'].map((name) => statSync(join(root, name)).mtimeMs),
  ]);

/** The doors of core: a folder's `index.js` is what others may import of it. */
function coreDoors() {
  const folder = join(root, 'packages/core/src');
  const doors = readdirSync(folder).filter((name) => existsSync(join(folder, name, 'index.ts')));
  return Object.fromEntries(doors.map((name) => [`doors/${name}`, join(root, 'packages/core/dist', name, 'index.js')]));
}

/**
 * A package and those it takes along in few files: every job and command begins with a process that loads it. `entries` names
 * them by where they go in its `dist`. Core stays one module for all.
 */
async function bundlePackage(name, entries, along) {
  const { build: bundle } = await import('vite');
  const folder = join(root, 'packages', name, 'dist');
  await bundle({
    configFile: false,
    logLevel: 'warn',
    ssr: { noExternal: along, external: name === 'core' ? [] : ['@idle-bend/core'] },
    build: {
      ssr: true,
      outDir: folder,
      emptyOutDir: false,
      target: 'es2022',
      rollupOptions: {
        input: entries,
        output: { entryFileNames: '[name].js', chunkFileNames: 'doors/parts/[name]-[hash].js' },
      },
    },
  });
}

export async function build() {
  const state = stateNow();
  if (MADE.every((file) => existsSync(join(root, file))) && existsSync(STAMP) && readFileSync(STAMP, 'utf8') === state)
    return;
  await import('./build-kernels.mjs');
  await saying('compiling', 40, () => run(bin('tsc'), ['-b']));
  await bundlePackage('core', coreDoors(), ['fft.js', 'd3-dsv', 'midi-file']);
  await bundlePackage('media', { media: join(root, 'packages/media/dist/index.js') }, [
    'mediabunny',
    '@idle-bend/kernels',
    '@idle-bend/pipeline',
  ]);
  const page = 'apps/web/dist/index.html';
  const sources = ['apps/web', 'packages/core/src', 'packages/kernels/src', 'packages/pipeline/src'];
  if (
    !existsSync(page) ||
    statSync(page).mtimeMs <
      Math.max(...sources.map((folder) => written(folder).time), statSync('package-lock.json').mtimeMs)
  )
    await saying('building the interface', 20, () =>
      run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'apps/web') }),
    );
  writeFileSync(STAMP, state);
}

if (process.argv[1] === new URL(import.meta.url).pathname) await build();
