import { basename } from 'node:path';
import { analyseBeats, ANY_TEMPO, couldBeLater, surenessOf, type TempoRange } from '@idle-bend/core/beats';
import { InvalidInput } from '@idle-bend/core/foundation';
import { BEATS_RATE, readUnknownMono } from '@idle-bend/media';
import { readOptions, text, type OptionKind, type Values } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  json: { type: 'boolean', help: 'the same as JSON' },
  'tempo-range': {
    type: 'string',
    help: `beats a minute to look between, as 60-120 (default ${ANY_TEMPO.low}-${ANY_TEMPO.high})`,
  },
};

export const beats = {
  usage: 'idle-bend beats SOUND [--json] [--tempo-range LO-HI]',
  about: 'What is heard in a sound: tempo, beats, the first beats of bars, and what begins when, low, middle and high.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['SOUND']);
    const range = tempoRange(values);
    const file = operands[0]!;
    const heard = analyseBeats(await readUnknownMono(file), BEATS_RATE, range);
    const downbeats = heard.beats.filter((_, i) => i % heard.bar.beats === heard.bar.first);
    if (values['json']) {
      const fine = (seconds: number) => Math.round(seconds * 1e6) / 1e6;
      const thousandth = (value: number) => Math.round(value * 1e3) / 1e3;
      const onsets = heard.onsets.map(({ time, band, strength }) => ({
        time: fine(time),
        band,
        strength: Math.round(strength * 1e3) / 1e3,
      }));
      print(
        JSON.stringify({
          tempo: Math.round(heard.tempo * 1e3) / 1e3,
          beats: heard.beats.map(fine),
          downbeats: downbeats.map(fine),
          bar: { beats: heard.bar.beats, first: heard.bar.first },
          onsets,
          sections: heard.sections.map(({ from, to, tempo, confidence, later }) => ({
            ...{ from: fine(from), to: fine(to), tempo: thousandth(tempo) },
            confidence: {
              tempo: thousandth(confidence.tempo),
              phase: thousandth(confidence.phase),
              bar: thousandth(confidence.bar),
            },
            later: thousandth(later),
          })),
        }),
      );
      return 0;
    }
    const seconds = (list: readonly number[]) =>
      list
        .slice(0, 8)
        .map((s) => s.toFixed(3))
        .join(' ') + (list.length > 8 ? ' …' : '');
    const count = (band: string) => heard.onsets.filter((o) => o.band === band).length;
    print(`file   ${basename(file)}`);
    print(`tempo  ${heard.tempo.toFixed(2)} beats a minute, ${heard.bar.beats} to a bar`);
    print(`beats  ${heard.beats.length}: ${seconds(heard.beats)} s`);
    print(`bars   ${downbeats.length}: ${seconds(downbeats)} s`);
    const later = couldBeLater(heard.sections);
    const unsure = later.map(({ from, to }) => `${from.toFixed(0)}–${to.toFixed(0)} s`).join(', ');
    print(
      `sure   ${Math.round(100 * surenessOf(heard.sections))} %${later.length > 0 ? `; could be half a beat later at ${unsure}` : ''}`,
    );
    print(`onsets ${heard.onsets.length}: ${count('low')} low, ${count('mid')} middle, ${count('high')} high`);
    return 0;
  },
};

function tempoRange(values: Values): TempoRange {
  const value = text(values, 'tempo-range');
  if (value === undefined) return ANY_TEMPO;
  const match = /^(\d+(?:\.\d+)?)-(\d+(?:\.\d+)?)$/.exec(value);
  const [low, high] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || !(low >= 20) || !(high >= low) || high > 400)
    throw new InvalidInput(
      '--tempo-range',
      `"${value}" is not a range of beats a minute within 20 to 400; write 60-120`,
    );
  return { low, high };
}
