import { createWriteStream } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { BUNDLE_FORMAT, BUNDLE_VERSION, formatEdl, formatFrameMap, formatOtio, lossesOf, type BundledFootage } from '@idle-bend/core';
import { fingerprintOf, indexFrames, probe, readFacts, writeBundle } from '@idle-bend/media';
import { choiceOption, readOptions, text, UsageError, type OptionKind } from './options.js';
import { openProjectFile, type ProjectFile } from './project-file.js';
import { render } from './render.js';

const KINDS = ['otio', 'edl', 'csv', 'wav', 'bundle'] as const;

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT (-o)  the file to write' },
  as: { type: 'string', help: 'otio|edl|csv|wav|bundle  OpenTimelineIO, an edit decision list, the map of every frame, the sound, or all of it' },
  media: { type: 'string', help: 'DIR  where the media are, for the sound, and to go into a bundle' },
};

export const exportProject = {
  usage: 'idle-bend export PROJECT --as otio|edl|csv|wav|bundle -o OUT [--media DIR]',
  about: 'Hands a project (a document or a bundle, docs/formats.md) over to another tool; what that cannot carry is said.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['PROJECT']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const kind = choiceOption(values, 'as', KINDS);
    if (!kind) throw new UsageError('--as is missing: otio, edl, csv, wav or bundle');
    if (kind === 'wav') return render.run([operands[0]!, '-o', out, ...(values['media'] ? ['--media', text(values, 'media')!] : [])], print, progress);
    const opened = await openProjectFile(operands[0]!, text(values, 'media'));
    try {
      const { project, name } = opened;
      const nameOf = (id: string) => opened.media[id]?.name ?? project.sources.find((source) => source.id === id)?.name ?? id;
      if (kind === 'bundle') await writeOut(opened, out);
      const edl = kind === 'edl' ? formatEdl(project, name) : undefined;
      for (const loss of edl?.losses ?? (kind === 'csv' ? lossesOf(project) : [])) progress(loss);
      if (edl) await writeFile(out, edl.text);
      else if (kind === 'otio') await writeFile(out, JSON.stringify(formatOtio(project, name, nameOf), null, 2));
      else if (kind === 'csv') await writeFile(out, formatFrameMap(project, nameOf));
    } finally {
      await opened.close();
    }
    print(out);
    return 0;
  },
};

/** A bundle with the media that were found. */
async function writeOut({ name, project, media }: ProjectFile, out: string): Promise<void> {
  const all = Object.entries(media).map(async ([id, { file, name: shown }]): Promise<BundledFootage> => {
    const facts = await probe(file, shown);
    const index = facts.video && (await indexFrames(file, facts));
    const own = readFacts(facts, index);
    return { id, name: shown, fileName: `original${extname(shown)}`, bytes: own.bytes, fingerprint: await fingerprintOf(file), facts: own, health: null };
  });
  const footage = await Promise.all(all);
  const files = footage.map(({ id, fileName }) => [{ name: fileName, path: media[id]!.file }]);
  const manifest = { format: BUNDLE_FORMAT, version: BUNDLE_VERSION, name, footage } as const;
  await pipeline(await writeBundle({ manifest, document: project, shapes: [], files }), createWriteStream(`${out}.part`));
  await rename(`${out}.part`, out);
}
