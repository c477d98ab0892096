import { extname } from 'node:path';
import { tempoOf } from '@idle-bend/core/beats';
import {
  decodeText,
  formatCueCsv,
  formatCueVtt,
  midiOf,
  parseCueCsv,
  parseCueVtt,
  readMidi,
  type NamedTime,
} from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import { framesPerSecond, rate, type Rate } from '@idle-bend/core/time';
import { readBytes, writeOut } from './io.js';
import { choiceOption, DATA_OPTION, rateOption, readOptions, text, UsageError, type OptionKind } from './options.js';
import { openProject } from './open-project.js';

const KINDS = ['csv', 'vtt', 'mid'] as const;

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: { type: 'string', help: 'OUT (-o)  the file to write; - for standard output' },
  as: {
    type: 'string',
    help: 'csv|vtt|mid  separated values, WebVTT, or a Standard MIDI file; by OUT’s ending without it',
  },
  data: DATA_OPTION,
  fps: {
    type: 'string',
    help: 'RATE  frames in a file of separated values count at it; the project’s, or 24, without it',
  },
};

/** Cues of a file of them, known by its ending; `-` is separated values or WebVTT. */
export async function readCues(file: string, fps: Rate): Promise<readonly NamedTime[]> {
  const bytes = await readBytes(file);
  if (/\.midi?$/i.test(file)) return readMidi(bytes);
  const content = decodeText(bytes);
  return /^\ufeff?WEBVTT/.test(content) ? parseCueVtt(content) : parseCueCsv(content, fps);
}

export const cues = {
  usage: 'idle-bend cues FILE|PROJECT --as csv|vtt|mid -o OUT [--data DIR] [--fps RATE]',
  about:
    'The cues of a project (.json, .zip, or one of a data folder), or of a file of cues (.csv, .vtt, .mid), as another kind of file. Bringing cues in is "import".',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['FILE']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    const ending = extname(out).slice(1).toLowerCase().replace('midi', 'mid');
    const kind = choiceOption(values, 'as', KINDS) ?? KINDS.find((one) => one === ending);
    if (!kind) throw new UsageError('--as is missing: csv, vtt or mid');
    const file = operands[0]!;
    const wanted = rateOption(values, 'fps');
    const data = text(values, 'data');
    const isProject = data !== undefined || /\.(json|zip)$/i.test(file);
    const { all, fps, tempo } = isProject
      ? await ofProject(file, data, wanted)
      : { all: await readCues(file, wanted ?? rate(24)), fps: wanted ?? rate(24), tempo: 120 };
    if (all.length === 0) throw new InvalidInput(file, 'has no cues');
    await writeOut(
      out,
      kind === 'csv' ? formatCueCsv(all, fps) : kind === 'vtt' ? formatCueVtt(all) : await midiOf(all, tempo),
    );
    if (out !== '-') print(`${out}: ${all.length} cues`);
    return 0;
  },
};

async function ofProject(
  wanted: string,
  data: string | undefined,
  fps: Rate | undefined,
): Promise<{ readonly all: NamedTime[]; readonly fps: Rate; readonly tempo: number }> {
  const opened = await openProject(wanted, { data, needsFrames: false });
  try {
    const { reel } = opened.project;
    const all = reel.cues
      .map(({ frame, name }) => ({ second: frame / framesPerSecond(reel.rate), name }))
      .sort((a, b) => a.second - b.second);
    return {
      all,
      fps: fps ?? reel.rate,
      tempo: tempoOf(reel.sounds.find(({ beats }) => beats)?.beats?.times ?? []) ?? 120,
    };
  } finally {
    await opened.close();
  }
}
