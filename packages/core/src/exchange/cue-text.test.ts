import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { rate } from '../time/rate.js';
import { formatCueCsv, formatCueVtt, parseCueCsv, parseCueVtt } from './cue-text.js';

const names = fc.string({ maxLength: 12 }).map((s) => s.replace(/[\r\n\p{C}]/gu, '').trim());

const lists = fc
  .array(fc.record({ second: fc.integer({ min: 0, max: 9_000_000 }).map((ms) => ms / 1000), name: names }), {
    minLength: 1,
    maxLength: 12,
  })
  .map((list) => list.toSorted((a, b) => a.second - b.second));

describe('cues in files', () => {
  test('CSV comes back as it went out, whatever is in the names', () => {
    fc.assert(
      fc.property(lists, (list) => void expect(parseCueCsv(formatCueCsv(list, rate(24)), rate(24))).toEqual(list)),
    );
  });

  test('CSV of other makes: without a header, with other separators, timecodes, frames, a byte-order mark', () => {
    const r = rate(24);
    expect(parseCueCsv('1.5,hit\n2,turn\n', r)).toEqual([
      { second: 1.5, name: 'hit' },
      { second: 2, name: 'turn' },
    ]);
    expect(parseCueCsv('\ufeffName;Timecode\r\n"a; b";00:00:02:12\r\n', r)).toEqual([{ second: 2.5, name: 'a; b' }]);
    expect(parseCueCsv('frame\tname\n36\tbell\n', r)).toEqual([{ second: 1.5, name: 'bell' }]);
    expect(parseCueCsv('0:01:02.25\n', r)).toEqual([{ second: 62.25, name: '' }]);
    expect(() => parseCueCsv('seconds,name\n1,a\nsoon,b\n', r)).toThrow(/line 3.*"soon" is not a time/);
    expect(() => parseCueCsv('', r)).toThrow(/no lines/);
  });

  test('WebVTT comes back as it went out; what is none is refused', () => {
    fc.assert(
      fc.property(lists, (list) => {
        const back = parseCueVtt(formatCueVtt(list));
        expect(back.map(({ second }) => second)).toEqual(list.map(({ second }) => second));
        expect(back.map(({ name }) => name)).toEqual(list.map(({ name }) => name || 'cue'));
      }),
    );
    expect(
      parseCueVtt('WEBVTT - by hand\n\nNOTE x\n\n1\n01:02.500 --> 01:03.000 align:start\n<b>bell</b> &amp; row\n'),
    ).toEqual([{ second: 62.5, name: 'bell & row' }]);
    expect(() => parseCueVtt('1\n00:00:01,000 --> 00:00:02,000\n')).toThrow(/WEBVTT/);
  });
});

test('separated values: quotes that break lines, and decimal commas where commas do not separate', () => {
  expect(parseCueCsv('seconds;name\n"1,5";"ring; ""out""\nloud"\n2,25;b', rate(24))).toEqual([
    { second: 1.5, name: 'ring; "out"\nloud' },
    { second: 2.25, name: 'b' },
  ]);
});

test('WebVTT: arrows without spaces, character references, and a long run of brackets', () => {
  expect(parseCueVtt('WEBVTT\n\n00:01.500-->00:02.000\n<v Maker>ring &amp; &#39;out&#x27; &eacute;&quot;</v>')).toEqual(
    [{ second: 1.5, name: "ring & 'out' &eacute;\"" }],
  );
  // A hundred thousand took 22 seconds once: ten times as many would never end.
  expect(parseCueVtt(`WEBVTT\n\n00:01.000 --> 00:02.000\nbell ${'<'.repeat(1_000_000)}`)).toEqual([
    { second: 1, name: 'bell' },
  ]);
});
