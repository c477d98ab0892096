// Writes THIRD-PARTY-NOTICES.md: every package that ships or runs with the product, its licence, and the licence's text.
// `--check` only says whether the list is that of package-lock.json.
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './setup.mjs';

const OUT = join(root, 'THIRD-PARTY-NOTICES.md');
const lock = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8')).packages;

/** Packages that are not for development alone, by name and version, without those of other machines. */
const shipped = Object.entries(lock)
  .filter(([path, { dev, link, os, cpu }]) => path.includes('node_modules/') && !dev && !link && !os && !cpu)
  .map(([path, { version, license }]) => ({
    name: path.slice(path.lastIndexOf('node_modules/') + 'node_modules/'.length),
    version,
    license: typeof license === 'string' ? license : 'see its text',
    path,
  }))
  .sort((a, b) => `${a.name}@${a.version}`.localeCompare(`${b.name}@${b.version}`, 'en'));
const title = ({ name, version, license }) => `${name} ${version} (${license})`;
const list = [...new Set(shipped.map(title))];

if (process.argv.includes('--check')) {
  const said = existsSync(OUT) ? readFileSync(OUT, 'utf8') : '';
  const missing = list.filter((line) => !said.includes(`- ${line}\n`));
  const count = said
    .split('\n## ')[0]
    .split('\n')
    .filter((line) => line.startsWith('- ')).length;
  if (missing.length > 0 || count !== list.length) {
    console.error(
      `THIRD-PARTY-NOTICES.md is not that of package-lock.json (${missing[0] ?? 'too much is in it'}); run npm run notices.`,
    );
    process.exit(1);
  }
} else {
  // Packages whose licence reads the same stand together.
  const texts = new Map();
  for (const one of shipped) {
    const folder = join(root, one.path);
    const name = existsSync(folder) && readdirSync(folder).find((file) => /^(licen[cs]e|copying)/i.test(file));
    const text = name
      ? readFileSync(join(folder, name), 'utf8').trim()
      : `No text comes with it; its package says ${one.license}.`;
    texts.set(text, [...(texts.get(text) ?? []), title(one)]);
  }
  const head = `# Notices

Idle Bend uses these packages. ffmpeg, ffprobe and Chromium are programs of the system; they are not part of it. Fonts: Bricolage Grotesque, Figtree and Spline Sans Mono, under the SIL Open Font License 1.1. Made by \`npm run notices\`.

`;
  const parts = [...texts].map(
    ([text, names]) =>
      `## ${names.map((name) => name.replace(/ \(.*\)$/, '')).join(', ')}\n\n\`\`\`\n${text}\n\`\`\`\n`,
  );
  writeFileSync(OUT, `${head}${list.map((line) => `- ${line}\n`).join('')}\n${parts.join('\n')}`);
}
