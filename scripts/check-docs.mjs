// Every link and every path that the documents name has to be there, and every npm command they give.
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root } from './setup.mjs';

const documents = ['.', 'docs', 'docs/decisions', 'docs/guide'].flatMap((folder) =>
  readdirSync(join(root, folder))
    .filter((name) => name.endsWith('.md') && name !== 'THIRD-PARTY-NOTICES.md')
    .map((name) => join(folder, name)),
);
const { scripts } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
/** Paths from the root of the repository: what stands in backticks and begins with one of its folders. */
const PATH = /`((?:packages|apps|docs|bench|e2e|demo|scripts|bin)(?:\/[\w.*…-]+)+)`/g;
const problems = [];

for (const document of documents) {
  const text = readFileSync(join(root, document), 'utf8');
  const expect = (path, said) => {
    if (!existsSync(join(root, path))) problems.push(`${document}: ${said} is not there.`);
  };
  for (const [, link] of text.matchAll(/\]\((?!https?:|#)([^)#]+)(?:#[^)]*)?\)/g))
    expect(join(dirname(document), link), link);
  for (const [, path] of text.matchAll(PATH)) if (!/[*…]/.test(path)) expect(path, path);
  for (const [, name] of text.matchAll(/npm run ([\w:]+)/g))
    if (!scripts[name]) problems.push(`${document}: npm run ${name} is not a command.`);
}
// What recipes call a control or a key has to be called that in the interface.
const sources = ['apps/web/src', 'packages/core/src'].flatMap((folder) =>
  readdirSync(join(root, folder), { recursive: true })
    .filter((name) => /\.tsx?$/.test(name) && !name.includes('.test.'))
    .map((name) => readFileSync(join(root, folder, name), 'utf8')),
);
const interfaceText = sources.join('\n');
const keys = new Set([...interfaceText.matchAll(/shown: '([^']+)'/g)].map(([, key]) => key));
const KEY = /^(?:[A-Z]|\/|(?:Shift|Ctrl|Alt)(?: (?:Shift|Ctrl|Alt))* \S+|Enter|Esc|Space)$/;
for (const name of readdirSync(join(root, 'docs/guide')).filter((file) => file.endsWith('.md'))) {
  const text = readFileSync(join(root, 'docs/guide', name), 'utf8');
  for (const [, label] of text.matchAll(/(?<![\w/])_([^_\n]+)_(?!\w)/g))
    if (!interfaceText.includes(label)) problems.push(`docs/guide/${name}: nothing is called "${label}".`);
  for (const [, key] of text.matchAll(/`([^`]+)`/g))
    if (KEY.test(key) && !keys.has(key)) problems.push(`docs/guide/${name}: no action has the key ${key}.`);
}
if (problems.length > 0) {
  console.error(problems.join('\n'));
  process.exit(1);
}
