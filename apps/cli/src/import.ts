import { basename, extname, join, resolve } from 'node:path';
import {
  addCue,
  decodeText,
  framesPerSecond,
  InvalidInput,
  parseEdl,
  parseOtio,
  rate,
  type KnownFootage,
  type Rate,
  type TakenTimeline,
} from '@idle-bend/core';
import { openBundle, openSource } from '@idle-bend/media';
import { rateOption, readOptions, text, UsageError, type OptionKind } from './options.js';
import { readCues } from './cues.js';
import { readBytes, writeOut } from './io.js';
import { mediaIn, readDocument } from './project-file.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT.json (-o)  the document to write' },
  media: { type: 'string', help: 'DIR  where the media are; of a bundle, where its media are unpacked to' },
  project: { type: 'string', help: 'FILE  the document that cues (.csv, .vtt, .mid) are added to' },
  fps: { type: 'string', help: 'RATE  of an edit decision list, which does not say it; 24 without it' },
};

export const importFile = {
  usage: 'idle-bend import FILE -o OUT.json [--media DIR] [--fps RATE]',
  about: 'Makes a project document of a bundle (.zip), an OpenTimelineIO file (.otio) or an edit decision list (.edl), or adds cues to one.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['FILE']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const file = operands[0]!;
    const media = text(values, 'media');
    const { project, losses } = await taken(file, media, rateOption(values, 'fps'), text(values, 'project'));
    for (const loss of losses) progress(loss);
    await writeOut(out, `${JSON.stringify(project, null, 2)}\n`);
    if (out !== '-') print(out);
    return 0;
  },
};

async function taken(file: string, media: string | undefined, fps: Rate | undefined, into: string | undefined): Promise<TakenTimeline> {
  if (/\.zip$/i.test(file)) return ofBundle(file, media);
  if (into !== undefined) {
    const project = await readDocument(into);
    const { rate: own } = project.reel;
    const named = await readCues(file, fps ?? own);
    const ids = new Set(project.reel.cues.map(({ id }) => id));
    const added = named.map(({ second, name }, i) => ({ id: freeId(ids, `cue-${i + 1}`), frame: second * framesPerSecond(own), name, beat: null }));
    return { project: added.reduce((p, cue) => addCue(p, cue), project), losses: [] };
  }
  if (/\.(csv|tsv|vtt|midi?)$/i.test(file)) throw new UsageError('cues go into a project: name its document with --project');
  return ofTimeline(file, media, fps ?? rate(24));
}

function freeId(taken: Set<string>, wanted: string): string {
  let id = wanted;
  for (let n = 2; taken.has(id); n++) id = `${wanted}-${n}`;
  taken.add(id);
  return id;
}

async function ofBundle(file: string, media: string | undefined): Promise<TakenTimeline> {
  const bundle = await openBundle(file, media ?? '.');
  try {
    const names = new Set<string>();
    for (const [i, { name, fileName }] of bundle.manifest.footage.entries()) {
      if (media === undefined || !bundle.files[i]!.has(fileName)) continue;
      const plain = basename(name);
      if (names.has(plain)) throw new InvalidInput(file, `has two files called ${plain}; rename one in its project first`);
      names.add(plain);
      await bundle.extract(i, fileName, resolve(media, plain));
    }
    return { project: bundle.document, losses: [] };
  } finally {
    bundle.close();
  }
}

async function ofTimeline(file: string, media: string | undefined, fps: ReturnType<typeof rate>): Promise<TakenTimeline> {
  const content = decodeText(await readBytes(file));
  const footage = media === undefined ? [] : await footageIn(media);
  if (extname(file).toLowerCase() === '.edl' || (file === '-' && /^\s*TITLE:/i.test(content))) return parseEdl(content, fps, footage);
  try {
    return parseOtio(JSON.parse(content), footage);
  } catch (error) {
    if (error instanceof SyntaxError) throw new InvalidInput(file, 'is not JSON');
    throw error;
  }
}

/** Footage of a folder; files without a picture are none. The document knows them by their names. */
async function footageIn(folder: string): Promise<KnownFootage[]> {
  const files = [...(await mediaIn(folder)).values()];
  const all = files.map(async (path) => {
    try {
      const { facts, index } = await openSource(join(path));
      const name = basename(path);
      return [{ id: name.replace(/\W+/g, '-'), name, frames: index.grid.frames, nativeRate: index.grid.rate, startTimecode: facts.startTimecode ?? null }];
    } catch {
      return [];
    }
  });
  return (await Promise.all(all)).flat();
}
