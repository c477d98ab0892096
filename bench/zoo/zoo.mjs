// The whole zoo, or its short form for every test run: sources drawn, sent through retime, renders and the preview, and looked at from outside.
import { existsSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readSource } from './check.mjs';
import { makeSource } from './draw.mjs';
import { previewSources } from './preview.mjs';
import { renderReels } from './render.mjs';
import { retimeSource } from './retime.mjs';
import { SOURCES } from './sources.mjs';

/** Sources the reels are made of. */
const ON_REELS = ['h264-601', 'h264-b', 'h264-full', 'vp9'];
const SHORT_FORMATS = ['h264', 'vp9', 'ffv1'];

/**
 * Rows [what, problems], told as they come. `ZOO_LONG=no` leaves out what takes minutes each: 8K, half an hour; `ZOO_ONLY`, names with commas
 * between them, looks at nothing else.
 */
export async function runZoo({ short, onRow }) {
  const folder = await mkdtemp(join(tmpdir(), 'zoo-'));
  const rows = [];
  const told = (more) => {
    for (const row of more) {
      rows.push(row);
      onRow?.(row);
    }
  };
  try {
    const read = {};
    const only = process.env.ZOO_ONLY?.split(',');
    const isWanted = (source) =>
      only ? only.includes(source.name) : short ? source.short : !source.long || process.env.ZOO_LONG !== 'no';
    const waiting = [...SOURCES.entries()].filter(([, source]) => isWanted(source));
    const lane = async () => {
      for (let next = waiting.shift(); next; next = waiting.shift()) {
        const [i, source] = next;
        const file = join(folder, `${source.name}.${source.file}`);
        await makeSource(source, file);
        if (!existsSync(file.replace('%04d', '0003'))) throw new Error(`${source.name} was not made`);
        read[source.name] = { source, read: await readSource(file) };
        told(await retimeSource(source, read[source.name].read, i, folder));
      }
    };
    // One for each of two cores.
    await Promise.all([lane(), lane()]);
    const ofReels = Object.fromEntries(ON_REELS.flatMap((name) => (read[name] ? [[name, read[name]]] : [])));
    if (ON_REELS.every((name) => ofReels[name]))
      told(await renderReels(ofReels, folder, short ? SHORT_FORMATS : undefined));
    const looked = Object.fromEntries(Object.entries(read).filter(([, { source }]) => !source.long));
    told(await previewSources(looked, folder));
    return rows;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export const sayRow = ([what, problems]) =>
  `  ${problems.length === 0 ? 'ok    ' : 'MISSED'} ${what}${problems.length > 0 ? `\n           ${problems.join('\n           ')}` : ''}`;

// As a program: the short form, for every test run.
if (process.argv[1] === new URL(import.meta.url).pathname) {
  const rows = await runZoo({ short: true, onRow: (row) => console.log(sayRow(row)) });
  const missed = rows.filter(([, problems]) => problems.length > 0).length;
  console.log(`${rows.length - missed} passed, ${missed} failed`);
  process.exitCode = missed > 0 ? 1 : 0;
}
