import { readFile, writeFile } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import { InvalidInput, parseEdl, parseOtio, rate, type KnownFootage, type TakenTimeline } from '@idle-bend/core';
import { openBundle, openSource } from '@idle-bend/media';
import { rateOption, readOptions, text, UsageError, type OptionKind } from './options.js';
import { mediaIn } from './project-file.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT.json (-o)  the document to write' },
  media: { type: 'string', help: 'DIR  where the media are; of a bundle, where its media are unpacked to' },
  fps: { type: 'string', help: 'RATE  of an edit decision list, which does not say it; 24 without it' },
};

export const importFile = {
  usage: 'idle-bend import FILE -o OUT.json [--media DIR] [--fps RATE]',
  about: 'Makes a project document of a bundle (.zip), an OpenTimelineIO file (.otio) or an edit decision list (.edl).',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['FILE']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const file = operands[0]!;
    const media = text(values, 'media');
    const { project, losses } = /\.zip$/i.test(file) ? await ofBundle(file, media) : await ofTimeline(file, media, rateOption(values, 'fps') ?? rate(24));
    for (const loss of losses) progress(loss);
    await writeFile(out, `${JSON.stringify(project, null, 2)}\n`);
    print(out);
    return 0;
  },
};

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
  const content = await readFile(file, 'utf8').catch((error: Error) => {
    throw new InvalidInput(file, `cannot be read: ${error.message}`);
  });
  const footage = media === undefined ? [] : await footageIn(media);
  if (extname(file).toLowerCase() === '.edl') return parseEdl(content, fps, footage);
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
