import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { midiOf, readMidi } from './midi-cues';

const cues = fc.uniqueArray(fc.record({ second: fc.integer({ min: 0, max: 900_000 }).map((n) => n / 1000), name: fc.stringMatching(/^[a-z ]{0,12}$/) }), { selector: ({ second }) => Math.round(second * 20), maxLength: 20 }); // prettier-ignore

describe('cues as MIDI', () => {
  test('come back at their times, to a tick, with their names, whatever the tempo', async () => {
    await fc.assert(
      fc.asyncProperty(cues, fc.integer({ min: 40, max: 240 }), async (all, tempo) => {
        const back = await readMidi(await midiOf(all, tempo));
        const sorted = [...all].sort((a, b) => a.second - b.second);
        expect(back.map(({ name }) => name)).toEqual(sorted.map(({ name }) => name));
        back.forEach(({ second }, i) => expect(Math.abs(second - sorted[i]!.second)).toBeLessThan(60 / tempo / 960 + 1e-4));
      }),
    );
  });

  test('whatever a file has been through, it is read or refused by name', async () => {
    const whole = await midiOf([{ second: 1.5, name: 'bell' }, { second: 2, name: '' }], 117); // prettier-ignore
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 6 }), fc.option(fc.nat()), async (changes, end) => {
        const wrong = Uint8Array.from(whole);
        for (const [at, by] of changes) wrong[at % wrong.length] = by;
        try {
          await readMidi(end === null ? wrong : wrong.subarray(0, end % wrong.length));
        } catch (error) {
          expect((error as Error).name).toBe('InvalidInput');
        }
      }),
      { numRuns: 400 },
    );
  });
});
