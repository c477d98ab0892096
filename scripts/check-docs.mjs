// Every link and every path that the documents name has to be there, and every npm command they give.
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root } from './setup.mjs';

const documents = ['.', 'docs', 'docs/decisions'].flatMap((folder) =>
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
if (problems.length > 0) {
  console.error(problems.join('\n'));
  process.exit(1);
}
