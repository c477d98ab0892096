import { describe, expect, test } from '@jest/globals';
import { rate } from '@idle-bend/core/time';
import { headroomOf, slowMotionHeadroom } from './slow-motion-headroom.ts';

const NTSC = [rate(24000, 1001), rate(30000, 1001), rate(60000, 1001)] as const;

describe('what rates bear', () => {
  test('even speeds are listed as a sentence lists them', () => {
    expect(slowMotionHeadroom(rate(120), rate(24))).toBe(
      '120 fps on 24: down to 20 % with every frame real; even at 20, 40, 60, 80 and 100 %',
    );
    expect(slowMotionHeadroom(rate(24), rate(24))).toBe(
      '24 fps on 24: no slow motion without made frames; even at 100 %',
    );
  });

  test('cameras are set to rates of the reel’s own kind', () => {
    expect(headroomOf(rate(24))).toBe('60 fps bears 40 % on a reel of 24 fps, 120 fps bears 20 %');
    expect(NTSC.map(headroomOf)).toEqual([
      '59.94 fps bears 40 % on a reel of 23.976 fps, 119.88 fps bears 20 %',
      '59.94 fps bears 50 % on a reel of 29.97 fps, 119.88 fps bears 25 %',
      '119.88 fps bears 50 % on a reel of 59.94 fps, 239.76 fps bears 25 %',
    ]);
    expect(headroomOf(rate(120))).toBe('240 fps bears 50 % on a reel of 120 fps');
    expect(headroomOf(rate(240))).toBeUndefined();
  });
});
