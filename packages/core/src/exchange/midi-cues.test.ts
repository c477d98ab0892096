import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { midiOf, readMidi } from './midi-cues.js';

const cues = fc.uniqueArray(
  fc.record({
    second: fc.integer({ min: 0, max: 900_000 }).map((n) => n / 1000),
    name: fc.stringMatching(/^[a-z ]{0,12}$/),
  }),
  { selector: ({ second }) => Math.round(second * 20), maxLength: 20 },
);

describe('cues as MIDI', () => {
  test('come back at their times, to a tick, with their names, whatever the tempo', async () => {
    await fc.assert(
      fc.asyncProperty(cues, fc.integer({ min: 40, max: 240 }), async (all, tempo) => {
        const back = await readMidi(await midiOf(all, tempo));
        const sorted = [...all].sort((a, b) => a.second - b.second);
        expect(back.map(({ name }) => name)).toEqual(sorted.map(({ name }) => name));
        back.forEach(({ second }, i) =>
          expect(Math.abs(second - sorted[i]!.second)).toBeLessThan(60 / tempo / 960 + 1e-4),
        );
      }),
    );
  });

  test('whatever a file has been through, it is read or refused by name', async () => {
    const whole = await midiOf(
      [
        { second: 1.5, name: 'bell' },
        { second: 2, name: '' },
      ],
      117,
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        fc.option(fc.nat()),
        async (changes, end) => {
          const wrong = Uint8Array.from(whole);
          for (const [at, by] of changes) wrong[at % wrong.length] = by;
          try {
            await readMidi(end === null ? wrong : wrong.subarray(0, end % wrong.length));
          } catch (error) {
            expect((error as Error).name).toBe('InvalidInput');
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});

test('names are UTF-8 both ways; those from before are the letters their bytes stand for', async () => {
  const named = [{ second: 1, name: 'Glöckchen 鐘' }];
  expect((await readMidi(await midiOf(named, 120)))[0]!.name).toBe('Glöckchen 鐘');
  const bytes = await midiOf([{ second: 1, name: 'xx' }], 120);
  bytes[Buffer.from(bytes).indexOf('xx')] = 0xf6;
  expect((await readMidi(bytes))[0]!.name).toBe('öx');
});

test.each([12, 20, 40])('at %i beats a minute times are within a tenth of a millisecond', async (tempo) => {
  const all = Array.from({ length: 50 }, (_, i) => ({ second: i * 0.7371 + 0.01234, name: `c${i}` }));
  const read = await readMidi(await midiOf(all, tempo));
  read.forEach(({ second }, i) => expect(Math.abs(second - all[i]!.second)).toBeLessThan(1e-4));
});

test('a file that counts in SMPTE frames of −29 has 30000/1001 of them a second', async () => {
  // MThd, format 0, one track, −29 frames a second of 40 ticks; a marker after 1200 ticks, which are 30 frames.
  const track = [0x89, 0x30, 0xff, 0x06, 0x01, 0x41, 0x00, 0xff, 0x2f, 0x00];
  const file = Uint8Array.from([
    ...Buffer.from('MThd'),
    0,
    0,
    0,
    6,
    0,
    0,
    0,
    1,
    0x100 - 29,
    40,
    ...Buffer.from('MTrk'),
    0,
    0,
    0,
    track.length,
    ...track,
  ]);
  const [cue] = await readMidi(file);
  expect(cue!.second).toBeCloseTo((30 * 1001) / 30_000, 9);
});
