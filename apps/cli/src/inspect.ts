import { motionStretches } from '@idle-bend/core/motion';
import {
  analyseMotion,
  estimateIndex,
  indexFrames,
  inspectHealth,
  MediaError,
  motionReader,
  probe,
  quickIndex,
  type OpenedSource,
} from '@idle-bend/media';
import { asJson, asLines, type Inspected } from './inspect-report.js';
import { readOptions, type OptionKind } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  quick: { type: 'boolean', help: 'what headers say: facts and the frame list, without decoding' },
  json: { type: 'boolean', help: 'the same as JSON' },
};

export const inspect = {
  usage: 'idle-bend inspect FILE [--quick] [--json]',
  about:
    'What a file is: container, codecs, size, exact rate, frame count, constant or variable rate, sound; repeated frames, scene cuts and which way the picture moves, found by looking at every picture. With --quick only what headers and sample tables say, and how many bytes of the file that took.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['FILE']);
    const file = operands[0]!;
    const looked = values['quick'] ? await lookQuickly(file) : await lookThrough(file, progress);
    print(values['json'] ? JSON.stringify(asJson(looked)) : asLines(looked));
    return 0;
  },
};

/** Everything there is to say of a file, by looking at every picture. */
async function lookThrough(file: string, progress: (text: string) => void): Promise<Inspected> {
  const facts = await probe(file);
  const index = facts.video && (await indexFrames(file, facts));
  if (!index) return { facts };
  const source = { file, facts, index };
  const health = await inspectHealth(source, tenths(progress));
  const motion = motionStretches(await inspectMotion(source, health.repeats, tenths(progress)));
  return { facts, index, grid: index.grid, seen: { health, motion } };
}

/** What headers and sample tables say; where those do not list frames, how many there are is estimated. */
async function lookQuickly(file: string): Promise<Inspected> {
  let bytesRead = 0;
  const onBytesRead = (bytes: number) => (bytesRead += bytes);
  const facts = await probe(file, undefined, onBytesRead);
  if (!facts.video) return { facts, bytesRead };
  const quick = await quickIndex(file, facts);
  bytesRead += quick?.bytesRead ?? 0;
  if (quick) return { facts, index: quick.index, grid: quick.index.grid, bytesRead };
  const estimated = await estimateIndex(file, facts, onBytesRead);
  if (!estimated) throw new MediaError(`${facts.name} does not say how long it is; inspect it without --quick.`);
  return { facts, grid: estimated.grid, bytesRead };
}

async function inspectMotion(
  source: OpenedSource,
  repeats: readonly number[],
  onPair: (done: number, total: number) => void,
) {
  const reader = motionReader(source);
  try {
    return await analyseMotion(reader, repeats, onPair);
  } finally {
    reader.close();
  }
}

/** Tells how far looking at a long file has come, ten times in all; short ones are done before that says anything. */
function tenths(progress: (text: string) => void): (done: number, total: number) => void {
  let reported = 0;
  return (done, total) => {
    const tenth = Math.floor((done / total) * 10);
    if (total >= 1000 && tenth > reported) progress(`looked at ${done} of ${total} frames`);
    reported = tenth;
  };
}
