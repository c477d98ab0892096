import { readFile, writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { formatEdl, formatFrameMap, formatOtio, InvalidInput, lossesOf, parseProject, type Project } from '@idle-bend/core';
import { choiceOption, readOptions, text, UsageError, type OptionKind } from './options.js';

const KINDS = ['otio', 'edl', 'csv'] as const;

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT (-o)  the file to write' },
  as: { type: 'string', help: 'otio|edl|csv  OpenTimelineIO, an edit decision list, or the map of every frame' },
};

export const exportProject = {
  usage: 'idle-bend export PROJECT --as otio|edl|csv -o OUT',
  about: 'Hands a project document (JSON, docs/formats.md) over to another tool; what that cannot carry is said.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, [], ['PROJECT']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const kind = choiceOption(values, 'as', KINDS, ['wav', 'bundle']);
    if (!kind) throw new UsageError('--as is missing: otio, edl or csv');
    const project = await readProject(operands[0]!);
    const name = basename(operands[0]!).replace(/\.\w+$/, '');
    const nameOf = (id: string) => project.sources.find((source) => source.id === id)?.name ?? id;
    const edl = kind === 'edl' ? formatEdl(project, name) : undefined;
    for (const loss of edl?.losses ?? (kind === 'otio' ? [] : lossesOf(project))) progress(loss);
    await writeFile(out, edl ? edl.text : kind === 'otio' ? JSON.stringify(formatOtio(project, name, nameOf), null, 2) : formatFrameMap(project, nameOf));
    print(out);
    return 0;
  },
};

async function readProject(file: string): Promise<Project> {
  const content = await readFile(file, 'utf8').catch((error: Error) => {
    throw new InvalidInput(file, `cannot be read: ${error.message}`);
  });
  let value: unknown;
  try {
    value = JSON.parse(content);
  } catch {
    throw new InvalidInput(file, 'is not JSON');
  }
  return parseProject(value);
}
