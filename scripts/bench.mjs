// npm run bench: prints measurements as ratios against a named baseline of the same run. Arguments name single ones.
import { readdirSync } from 'node:fs';
import { BROWSER, installPackages, installPrograms, MEDIA_PROGRAMS } from './setup.mjs';

await installPackages();
await installPrograms([...MEDIA_PROGRAMS, ...BROWSER]);
const { build } = await import('./build.mjs');
await build();
const wanted = process.argv.slice(2);
const known = readdirSync('bench').flatMap((file) =>
  file.endsWith('.bench.mjs') ? [file.replace('.bench.mjs', '')] : [],
);
const unknown = wanted.filter((name) => !known.includes(name));
if (unknown.length > 0) {
  console.error(`There is no measurement "${unknown[0]}"; there are ${known.join(', ')}.`);
  process.exit(2);
}
let missed = 0;
for (const name of wanted.length > 0 ? wanted : known) {
  const { about, run } = await import(`../bench/${name}.bench.mjs`);
  console.log(`\n${name}: ${about}`);
  for (const { what, value, limit, holds } of await run()) {
    if (holds === false) missed++;
    console.log(
      `  ${what.padEnd(58)} ${value}${limit ? `   (wanted: ${limit}${holds ? ', holds' : ', MISSED'})` : ''}`,
    );
  }
}
process.exitCode = missed > 0 ? 1 : 0;
