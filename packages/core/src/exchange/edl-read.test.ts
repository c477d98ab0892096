import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mapArbitrary } from '../../test/arbitraries.js';
import { addSource, appendClip, updateClip, withMap } from '../project/edit.js';
import { emptyProject, placeItems, reelFrames, type Project, type Source } from '../project/project.js';
import { insertGap } from '../project/reel-edit.js';
import { framesPerSecond, rate } from '../rate/rate.js';
import { positionAt } from '../time-map/evaluate.js';
import { formatEdl } from './edl.js';
import { parseEdl } from './edl-read.js';
import { piecesOf } from './pieces.js';

const bell: Source = { id: 'bell', name: 'marble-bell', frames: 6000, nativeRate: rate(120), readAs: rate(120), moments: [], skips: null };
const boat: Source = { ...bell, id: 'boat', name: 'paper boat', frames: 2400, nativeRate: rate(24), readAs: rate(24) };
const known = [bell, boat].map(({ id, name, frames, nativeRate }) => ({ id, name: `${name}.mp4`, frames, nativeRate }));

function parade(): Project {
  const project = appendClip(appendClip([bell, boat].reduce(addSource, emptyProject(rate(24))), 'a', 'bell', 120, 239), 'b', 'boat', 0, 47);
  return insertGap(project, 1, 'gap', 24);
}

describe('an edit decision list read back', () => {
  test('ours shows the same stretches of the same footage at the same speeds, as near as a list can say', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const project = updateClip(parade(), 'b', (c) => withMap(c, map));
        const { project: taken } = parseEdl(formatEdl(project, 'Marble Parade').text, rate(24), known);
        expect(reelFrames(taken)).toBe(reelFrames(project));
        const pieces = piecesOf(project);
        placeItems(taken).forEach(({ item, start, frames }, i) => {
          expect([start, start + frames]).toEqual([pieces[i]!.from, pieces[i]!.to]);
          const { of } = pieces[i]!;
          expect(item.kind).toBe(of ? 'clip' : 'gap');
          if (!of || item.kind !== 'clip' || of.start < 0 || of.end < 0) return;
          expect(item.sourceId).toBe(of.source.id);
          // Source times are whole frames of the reel, speeds are in tenths of a frame a second.
          const frame = framesPerSecond(of.source.nativeRate) / 24;
          expect(Math.abs(positionAt(item.map, 0) - of.start)).toBeLessThanOrEqual(1.5 * frame + 1e-6);
          const way = item.map.vertices.at(-1)!.s - item.map.vertices[0]!.s;
          expect(Math.abs(way - (of.end - of.start))).toBeLessThanOrEqual((0.05 / 24) * frames * frame * 1.001 + 1e-3);
        });
      }),
      { numRuns: 60 },
    );
  });

  const LIST = `TITLE: PARADE
FCM: NON-DROP FRAME

003  BELLTAPE V     C        00:00:10:00 00:00:12:00 01:00:05:00 01:00:06:00
M2   BELLTAPE       048.0                00:00:10:00
* FROM CLIP NAME: marble-bell.mov
001  BELLTAPE V     C        00:00:01:00 00:00:02:00 01:00:00:00 01:00:02:00
M2   BELLTAPE       012.0                00:00:01:00
* FROM CLIP NAME: MARBLE-BELL.MOV
002  PAPERBOA V     C        00:00:04:00 00:00:05:00 01:00:02:00 01:00:03:00
M2   PAPERBOA      -024.0                00:00:05:00
004  BELLTAPE A     C        00:00:01:00 00:00:02:00 01:00:00:00 01:00:02:00
005  PAPERBOA V     D    012 00:00:08:00 00:00:09:00 01:00:06:00 01:00:07:00
M2   PAPERBOA       000.0                00:00:08:00
006  OTHER    V     C        00:00:08:00 00:00:09:00 01:00:07:00 01:00:08:00
007  BL       V     C        00:00:00:00 00:00:01:00 01:00:08:00 01:00:09:00
`;

  test('one by hand: in the order of the reel, with holes, half speed, double, reverse and freeze', () => {
    const { project, losses } = parseEdl(LIST, rate(24), known);
    const shown = placeItems(project).map(({ item, frames }) =>
      item.kind === 'gap' ? `gap ${frames}` : `${item.sourceId} ${frames} ${item.map.vertices[0]!.s}>${item.map.vertices.at(-1)!.s}`,
    );
    expect(shown).toEqual(['bell 48 120>240', 'boat 24 120>96', 'gap 48', 'bell 24 1200>1440', 'boat 24 192>192', 'gap 24', 'gap 24']);
    expect(losses).toEqual([
      'Event 004 is sound and is left out.',
      'The transition of event 005 is taken as a cut.',
      'The footage of event 006 (OTHER) is not in the project; black is in its place.',
    ]);
  });

  test('drop-frame lists count as they do, and a file’s own start timecode is where its frames are', () => {
    const list = 'FCM: DROP FRAME\r\n1 PAPERBOA V C 10:00:59:28 10:01:00:04 00:00:59:28 00:01:00:04\r\n';
    const [, paper] = known;
    const at = (startTimecode: string | null) => {
      const { project } = parseEdl(list, rate(30000, 1001), [{ ...paper!, nativeRate: rate(30000, 1001), startTimecode }]);
      const [{ item, frames }] = placeItems(project) as [ReturnType<typeof placeItems>[number]];
      return item.kind === 'clip' ? [frames, Math.round(item.map.vertices[0]!.s)] : [];
    };
    // 59:28, 59:29, then 1:00:02 and 1:00:03.
    expect(at('10:00:00;00')).toEqual([4, 59 * 30 + 28]);
    expect(at(null)[0]).toBe(4);
  });

  test.each([
    ['', /has no picture event/],
    ['001  A  V  C  00:00:01:00 00:00:02:00 01:00:00:00 00:59:00:00', /^line 1: ends before it begins/],
    ['001  A  V  C  00:00:01:99 00:00:02:00 01:00:00:00 01:00:01:00', /^line 1: .*frames run from 00 to 23/],
    ['TITLE: x\n001  A  V  C  soon', /^line 2: begins like an event and is none/],
  ])('%j is refused', (text, message) => expect(() => parseEdl(text, rate(24), known)).toThrow(message));
});
