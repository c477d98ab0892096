// Compiles everything that is newer than its output: kernels, packages, server, command line, interface.
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { root, run, saying } from './setup.mjs';

const bin = (name) => join(root, 'node_modules/.bin', name);

function newest(folder) {
  let time = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist') continue;
    const path = join(folder, entry.name);
    time = Math.max(time, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return time;
}

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
  await import('./build-kernels.mjs');
  await saying('compiling', 40, () => run(bin('tsc'), ['-b']));
  await bundlePackage('core', coreDoors(), ['fft.js', 'd3-dsv', 'midi-file']);
  await bundlePackage('media', { media: join(root, 'packages/media/dist/index.js') }, [
    '@idle-bend/kernels',
    '@idle-bend/pipeline',
  ]);
  const page = 'apps/web/dist/index.html';
  const sources = ['apps/web', 'packages/core/src', 'packages/kernels/src', 'packages/pipeline/src'];
  if (
    !existsSync(page) ||
    statSync(page).mtimeMs < Math.max(...sources.map(newest), statSync('package-lock.json').mtimeMs)
  )
    await saying('building the interface', 20, () =>
      run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'apps/web') }),
    );
}

if (process.argv[1] === new URL(import.meta.url).pathname) await build();
