import { createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import { extname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  formatEdl,
  formatFrameMap,
  formatOtio,
  lossesOf,
  type BundledFootage,
} from '@idle-bend/core/exchange';
import {
  fingerprintOf,
  holdScratch,
  indexFrames,
  probe,
  releaseScratch,
  readFacts,
  writeBundle,
} from '@idle-bend/media';
import { choiceOption, DATA_OPTION, readOptions, text, UsageError, type OptionKind } from './options.js';
import { numbered, writeOut } from './io.js';
import { openProject } from './open-project.js';
import type { ProjectFile } from './project-file.js';
import { render } from './render.js';

const KINDS = ['otio', 'edl', 'csv', 'wav', 'bundle'] as const;

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT (-o)  the file to write' },
  as: {
    type: 'string',
    help: 'otio|edl|csv|wav|bundle  OpenTimelineIO, an edit decision list, the map of every frame, the sound, or all of it',
  },
  drop: { type: 'boolean', help: 'timecode of an edit decision list counts drop-frame, where the rate has it' },
  data: DATA_OPTION,
  media: { type: 'string', help: 'DIR  where the media are, for the sound, and to go into a bundle' },
};

export const exportProject = {
  usage: 'idle-bend export PROJECT --as otio|edl|csv|wav|bundle -o OUT [--data DIR] [--media DIR] [--drop]',
  about:
    'Hands a project (a document, a bundle or one of a data folder, docs/formats.md) over to another tool; what that cannot carry is said.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['PROJECT']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const kind = choiceOption(values, 'as', KINDS);
    if (!kind) throw new UsageError('--as is missing: otio, edl, csv, wav or bundle');
    const places = { data: text(values, 'data'), media: text(values, 'media') };
    const same = Object.entries(places).flatMap(([name, value]) => (value === undefined ? [] : [`--${name}`, value]));
    if (kind === 'wav') return render.run([operands[0]!, '-o', out, ...same], print, progress);
    const opened = await openProject(operands[0]!, places);
    try {
      const { project, name } = opened;
      const nameOf = (id: string) =>
        opened.media[id]?.name ?? project.sources.find((source) => source.id === id)?.name ?? id;
      if (kind === 'bundle') await writeBundleOf(opened, out);
      const edl =
        kind === 'edl'
          ? formatEdl(project, name, { drop: values['drop'] === true, startOf: await startsOf(opened) })
          : undefined;
      const losses = {
        otio: () => lossesOf(project, { marks: true, sounds: true, method: false }),
        edl: () => edl!.losses,
        csv: () => [],
        bundle: () => [],
      }[kind]();
      for (const loss of losses) progress(loss);
      if (edl) {
        if (out === '-' && edl.lists.length > 1)
          throw new UsageError(`-o: this reel takes ${edl.lists.length} lists, which are several files`);
        for (const [i, list] of edl.lists.entries()) await writeOut(numbered(out, i + 1), list);
        if (edl.lists.length > 1)
          progress(`${edl.lists.length} lists: ${edl.lists.map((_, i) => numbered(out, i + 1)).join(', ')}`);
      } else if (kind === 'otio') await writeOut(out, JSON.stringify(formatOtio(project, name, nameOf), null, 2));
      else if (kind === 'csv') await writeOut(out, formatFrameMap(project, nameOf));
    } finally {
      await opened.close();
    }
    if (out !== '-') print(out);
    return 0;
  },
};

/** The start timecodes of the files that are there. */
async function startsOf({ media }: ProjectFile): Promise<(id: string) => string | undefined> {
  const all = Object.entries(media).map(
    async ([id, { file, name }]) => [id, (await probe(file, name)).startTimecode] as const,
  );
  const starts = new Map(await Promise.all(all));
  return (id) => starts.get(id);
}

/** A bundle with the media that were found. */
async function writeBundleOf({ name, project, media }: ProjectFile, out: string): Promise<void> {
  const all = Object.entries(media).map(async ([id, { file, name: shown }]): Promise<BundledFootage> => {
    const facts = await probe(file, shown);
    const index = facts.video && (await indexFrames(file, facts));
    const own = readFacts(facts, index);
    return {
      id,
      name: shown,
      fileName: `original${extname(shown)}`,
      bytes: own.bytes,
      fingerprint: await fingerprintOf(file),
      facts: own,
      health: null,
    };
  });
  const footage = await Promise.all(all);
  const files = footage.map(({ id, fileName }) => [{ name: fileName, path: media[id]!.file }]);
  const manifest = { format: BUNDLE_FORMAT, version: BUNDLE_VERSION, name, footage } as const;
  const part = holdScratch(`${out}.part`);
  await pipeline(await writeBundle({ manifest, document: project, shapes: [], files }), createWriteStream(part));
  await rename(part, out);
  releaseScratch(part);
}
