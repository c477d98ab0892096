import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { basename, join, resolve } from 'node:path';
import { addCue } from '@idle-bend/core/edit';
import { decodeText, readTimeline, type OfferedFootage, type ImportedTimeline } from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import { framesPerSecond, rate, type Rate } from '@idle-bend/core/time';
import { fingerprintOf, openBundle, openSource } from '@idle-bend/media';
import { DataServer } from './data-folder.js';
import { rateOption, readOptions, text, UsageError, type OptionKind } from './options.js';
import { readCues } from './cues.js';
import { readBytes, writeOut } from './io.js';
import { mediaIn, readDocument } from './project-file.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT.json (-o)  the document to write' },
  data: {
    type: 'string',
    help: 'DIR  a data folder: what is imported goes into it, through the server that runs on it',
  },
  media: { type: 'string', help: 'DIR  where the media are; of a bundle, where its media are unpacked to' },
  project: {
    type: 'string',
    help: 'FILE  the document that cues (.csv, .vtt, .mid) are added to; with --data a project there, by name or id',
  },
  fps: { type: 'string', help: 'RATE  of an edit decision list, which does not say it; 24 without it' },
};

export const importFile = {
  usage: 'idle-bend import FILE (-o OUT.json | --data DIR) [--project PROJECT] [--media DIR] [--fps RATE]',
  about:
    'Makes a project document of a bundle (.zip), an OpenTimelineIO file (.otio) or an edit decision list (.edl), or adds cues to one.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['FILE']);
    const [out, data, media, into] = ['output', 'data', 'media', 'project'].map((name) => text(values, name));
    const file = operands[0]!;
    const fps = rateOption(values, 'fps');
    if ((out === undefined) === (data === undefined)) throw new UsageError('either -o OUT or --data DIR is needed');
    if (data !== undefined) {
      if (media !== undefined) throw new UsageError('--media: the media of a data folder are those its server has');
      await importInto(await DataServer.of(resolve(data)), file, { into, fps }, print, progress);
      return 0;
    }
    const { project, losses } = await taken(file, { media, fps, into }, progress);
    for (const loss of losses) progress(loss);
    const content = `${JSON.stringify(project, null, 2)}\n`;
    if (isBundle(file) && out !== '-') {
      const before = await readFile(out!, 'utf8').catch(() => undefined);
      if (before === content) progress(`${out} was imported before; nothing in it has changed`);
      else if (before !== undefined)
        throw new InvalidInput(
          out!,
          'is there already and differs from what is in the bundle; name another file with -o',
        );
    }
    await writeOut(out!, content);
    if (out !== '-') print(out!);
    return 0;
  },
};

const isBundle = (file: string) => /\.zip$/i.test(file);
const isCues = (file: string) => /\.(csv|tsv|vtt|midi?)$/i.test(file);

/** What a file becomes, without a server: a document of its own, or one with cues added. */
async function taken(
  file: string,
  {
    media,
    fps,
    into,
  }: { readonly media: string | undefined; readonly fps: Rate | undefined; readonly into: string | undefined },
  progress: (text: string) => void,
): Promise<ImportedTimeline> {
  if (isBundle(file)) return ofBundle(file, media, progress);
  if (into !== undefined) return withCues(await readDocument(into), file, fps);
  if (isCues(file)) throw new UsageError('cues go into a project: name its document with --project');
  return timelineOf(file, fps ?? rate(24), media === undefined ? [] : await footageIn(media));
}

/** Imports through a running server: a bundle as a new project, cues and timelines into one that is there. */
async function importInto(
  server: DataServer,
  file: string,
  { into, fps }: { readonly into: string | undefined; readonly fps: Rate | undefined },
  print: (text: string) => void,
  progress: (text: string) => void,
): Promise<void> {
  if (isBundle(file)) {
    if (into !== undefined) throw new UsageError('--project: a bundle becomes a project of its own');
    const { id, again } = await server.sendBundle(file);
    if (again) progress('This bundle was imported before; this is another copy of its project.');
    print(id);
    return;
  }
  if (into === undefined) throw new UsageError('--project is missing: the project that this goes into, by name or id');
  const id = await server.idOf(into);
  const footage = isCues(file) ? [] : await server.footage(id);
  let losses: readonly string[] = [];
  await server.edit(id, async (project) => {
    const changed = isCues(file)
      ? await withCues(project, file, fps)
      : await timelineOf(file, fps ?? project.reel.rate, footage);
    losses = changed.losses;
    return changed.project;
  });
  for (const loss of losses) progress(loss);
  print(id);
}

/** The project with the cues of a file added; those at whose time a cue lies already are left out, and that is said. */
async function withCues(project: Project, file: string, fps: Rate | undefined): Promise<ImportedTimeline> {
  const { rate: own, cues } = project.reel;
  const named = await readCues(file, fps ?? own);
  const ids = new Set(cues.map(({ id }) => id));
  const added = named.map(({ second, name }, i) => ({
    id: freeId(ids, `cue-${i + 1}`),
    frame: second * framesPerSecond(own),
    name,
    beat: null,
  }));
  const changed = added.reduce((p, cue) => addCue(p, cue), project);
  const left = cues.length + added.length - changed.reel.cues.length;
  return {
    project: changed,
    losses: left > 0 ? [`${left} of ${added.length} cues were left out, since a cue lies at their time already.`] : [],
  };
}

function freeId(taken: Set<string>, wanted: string): string {
  let id = wanted;
  for (let n = 2; taken.has(id); n++) id = `${wanted}-${n}`;
  taken.add(id);
  return id;
}

async function ofBundle(
  file: string,
  media: string | undefined,
  progress: (text: string) => void,
): Promise<ImportedTimeline> {
  const bundle = await openBundle(file, media ?? '.');
  try {
    const names = new Set<string>();
    for (const [i, { name, fileName, fingerprint }] of bundle.manifest.footage.entries()) {
      if (media === undefined || !bundle.files[i]!.has(fileName)) continue;
      const plain = basename(name);
      if (names.has(plain))
        throw new InvalidInput(file, `has two files called ${plain}; rename one in its project first`);
      names.add(plain);
      const target = resolve(media, plain);
      if (existsSync(target)) {
        if (fingerprint === null || (await fingerprintOf(target)) !== fingerprint)
          throw new InvalidInput(
            target,
            'is there already and is another file than the one in the bundle; name another folder with --media',
          );
        progress(`${plain} was imported before`);
      } else await bundle.extract(i, fileName, target);
    }
    return { project: bundle.document, losses: [] };
  } finally {
    bundle.close();
  }
}

async function timelineOf(file: string, fps: Rate, footage: readonly OfferedFootage[]): Promise<ImportedTimeline> {
  const content = decodeText(await readBytes(file));
  try {
    return readTimeline(basename(file), content, fps, footage);
  } catch (error) {
    if (error instanceof InvalidInput && error.field === 'file') throw new InvalidInput(file, error.problem);
    throw error;
  }
}

/** Footage of a folder; files without a picture are none. The document knows them by their names. */
async function footageIn(folder: string): Promise<OfferedFootage[]> {
  const files = [...(await mediaIn(folder)).values()];
  const all = files.map(async (path) => {
    try {
      const { facts, index } = await openSource(join(path));
      const name = basename(path);
      return [
        {
          id: name.replace(/\W+/g, '-'),
          name,
          frames: index.grid.frames,
          nativeRate: index.grid.rate,
          startTimecode: facts.startTimecode ?? null,
        },
      ];
    } catch {
      return [];
    }
  });
  return (await Promise.all(all)).flat();
}
