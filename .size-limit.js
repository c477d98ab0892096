import { readFileSync } from 'node:fs';

/** The files a browser loads to show the bench: the page's script, the bench's, and what both import. */
const dist = 'apps/web/dist';
const manifest = JSON.parse(readFileSync(`${dist}/.vite/manifest.json`, 'utf8'));
const files = new Set();
const add = (name) => {
  const { file, imports = [] } = manifest[name];
  if (files.has(file)) return;
  files.add(file);
  imports.forEach(add);
};
['index.html', 'src/bench/bench-page.tsx'].forEach(add);

export default [
  { name: 'first load of the bench', path: [...files].map((file) => `${dist}/${file}`), limit: '240 kB', gzip: true },
];
