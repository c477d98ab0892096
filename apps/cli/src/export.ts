import { createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import { extname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  TIMELINE_FORMAT_NAMES,
  TIMELINE_FORMATS,
  writeTimeline,
  type BundledFootage,
  type TimelineFormatName,
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
import { choiceOption, DATA_OPTION, readOptions, text, UsageError, type OptionKind, type Values } from './options.js';
import { numbered, writeOut } from './io.js';
import { openProject } from './open-project.js';
import type { ProjectFile } from './project-file.js';
import { render } from './render.js';

const KINDS = [...TIMELINE_FORMAT_NAMES, 'wav', 'bundle'] as const;
const ANY_KIND = KINDS.join('|');

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT (-o)  the file to write' },
  as: {
    type: 'string',
    help: `${ANY_KIND}  ${TIMELINE_FORMAT_NAMES.map((name) => TIMELINE_FORMATS[name].title).join(', ')}, the sound, or all of it`,
  },
  drop: {
    type: 'boolean',
    help: 'timecode of an edit decision list counts drop-frame, where the rate has it; without either as the footage’s does',
  },
  'no-drop': { type: 'boolean', help: 'it counts every frame' },
  data: DATA_OPTION,
  media: { type: 'string', help: 'DIR  where the media are, for the sound, and to go into a bundle' },
};

export const exportProject = {
  usage: `idle-bend export PROJECT --as ${ANY_KIND} -o OUT [--data DIR] [--media DIR] [--drop | --no-drop]`,
  about:
    'Hands a project (a document, a bundle or one of a data folder, docs/formats.md) over to another tool; what that cannot carry is said.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['PROJECT']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const kind = choiceOption(values, 'as', KINDS);
    if (!kind) throw new UsageError(`--as is missing: ${KINDS.slice(0, -1).join(', ')} or ${KINDS.at(-1)}`);
    const places = { data: text(values, 'data'), media: text(values, 'media') };
    const same = Object.entries(places).flatMap(([name, value]) => (value === undefined ? [] : [`--${name}`, value]));
    if (kind === 'wav') return render.run([operands[0]!, '-o', out, ...same], print, progress);
    const opened = await openProject(operands[0]!, places);
    try {
      if (kind === 'bundle') await writeBundleOf(opened, out);
      else await writeTimelineOf(opened, kind, out, dropOf(values), progress);
    } finally {
      await opened.close();
    }
    if (out !== '-') print(out);
    return 0;
  },
};

function dropOf(values: Values): boolean | undefined {
  const [drop, every] = [values['drop'] === true, values['no-drop'] === true];
  if (drop && every) throw new UsageError('--drop and --no-drop: one of them');
  return drop || every ? drop : undefined;
}

/** The files of a format; what they cannot say is told. */
async function writeTimelineOf(
  opened: ProjectFile,
  kind: TimelineFormatName,
  out: string,
  drop: boolean | undefined,
  progress: (text: string) => void,
): Promise<void> {
  const { project, name, media } = opened;
  const nameOf = (id: string) => media[id]?.name ?? project.sources.find((source) => source.id === id)?.name ?? id;
  const { files, losses } = writeTimeline(kind, project, { name, nameOf, startOf: await startsOf(opened), drop });
  for (const loss of losses) progress(loss);
  if (files.length === 1) return writeOut(out, files[0]!);
  if (out === '-') throw new UsageError(`-o: this reel takes ${files.length} lists, which are several files`);
  for (const [i, content] of files.entries()) await writeOut(numbered(out, i + 1), content);
  progress(`${files.length} lists: ${files.map((_, i) => numbered(out, i + 1)).join(', ')}`);
}

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
