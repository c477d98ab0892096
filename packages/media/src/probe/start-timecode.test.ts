import { describe, expect, test } from '@jest/globals';
import { rate } from '@idle-bend/core/time';
import { timecodeOfFrames } from './start-timecode.js';

describe('a start timecode from which single frames are counted', () => {
  test.each([
    ['pairs', '10:00:00:15', rate(25), rate(50), '10:00:00:30'],
    ['fours', '10:00:00:29', rate(30), rate(120), '10:00:00:116'],
    ['pairs that count drop-frame', '00:09:59;29', rate(30000, 1001), rate(60000, 1001), '00:09:59;58'],
    [
      'pairs, at the first label of a minute that is not skipped',
      '00:01:00;02',
      rate(30000, 1001),
      rate(60000, 1001),
      '00:01:00;04',
    ],
    ['drop-frame said by a point', '00:09:59.29', rate(30000, 1001), rate(60000, 1001), '00:09:59;58'],
    ['single frames', '10:00:00:31', rate(60), rate(60), '10:00:00:31'],
    ['a rate that does not go into the picture’s', '10:00:00:15', rate(24), rate(60), '10:00:00:15'],
    ['slower pictures', '10:00:00:15', rate(50), rate(25), '10:00:00:15'],
    ['a label that its rate skips', '00:01:00;00', rate(30000, 1001), rate(60000, 1001), '00:01:00;00'],
    ['nothing that says how it counts', '10:00:00:15', undefined, rate(50), '10:00:00:15'],
    ['no rate of the picture', '10:00:00:15', rate(25), undefined, '10:00:00:15'],
  ])('%s', (_, label, counted, picture, said) => {
    expect(timecodeOfFrames({ label, rate: counted }, picture)).toBe(said);
  });
});
