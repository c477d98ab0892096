import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { insertGap } from '../edit/reel-edit.js';
import type { Source } from '../model/group.js';
import { emptyProject, type Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { framesPerSecond, rate } from '../time/rate.js';
import { decodeText } from './decode-text.js';
import { parseEdl } from './edl-read.js';
import { formatEdl } from './edl.js';
import { shownFrames } from './shown-frames.js';

const bell: Source = {
  id: 'bell',
  name: 'marble-bell',
  frames: 6000,
  nativeRate: rate(120),
  readAs: rate(120),
  moments: [],
  droppedRepeats: null,
};

const boat: Source = { ...bell, id: 'boat', name: 'paper boat', frames: 2400, nativeRate: rate(24), readAs: rate(24) };

const known = [bell, boat].map(({ id, name, frames, nativeRate }) => ({ id, name: `${name}.mp4`, frames, nativeRate }));

function parade(): Project {
  const project = appendClip(
    appendClip([bell, boat].reduce(addSource, emptyProject(rate(24))), 'a', 'bell', 120, 239),
    'b',
    'boat',
    0,
    47,
  );
  return insertGap(project, 1, 'gap', 24);
}

describe('an edit decision list read back', () => {
  test('ours shows the same stretches of the same footage at the same speeds, as near as a list can say', () => {
    let whole = 0;
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const project = updateClip(parade(), 'b', (c) => withMap(c, map));
        const { lists } = formatEdl(project, 'Marble Parade');
        fc.pre(lists.length === 1);
        const { project: taken, losses } = parseEdl(lists[0]!, rate(24), known);
        expect(losses).toEqual([]);
        const [before, after] = [shownFrames(project), shownFrames(taken)];
        expect(after).toHaveLength(before.length);
        before.forEach((frame, k) => {
          expect(after[k]?.shown.source.id).toBe(frame?.shown.source.id);
          // Half a frame of the list, and what the reader's own ends hold.
          const unit = frame ? framesPerSecond(frame.shown.source.nativeRate) / 24 : 0;
          if (frame) expect(Math.abs(after[k]!.native - frame.native)).toBeLessThanOrEqual(0.5 * unit + 1e-6);
        });
        whole++;
      }),
      { numRuns: 60 },
    );
    expect(whole).toBeGreaterThan(50);
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
      item.kind === 'gap'
        ? `gap ${frames}`
        : `${item.sourceId} ${frames} ${item.map.vertices[0]!.s}>${item.map.vertices.at(-1)!.s}`,
    );
    expect(shown).toEqual([
      'bell 48 120>240',
      'boat 24 119>95',
      'gap 48',
      'bell 24 1200>1440',
      'boat 24 192>192',
      'gap 24',
      'gap 24',
    ]);
    expect(losses).toEqual([
      'Event 004 is sound and is left out.',
      'The transition of event 005 is taken as a cut.',
      'The footage of event 006 (OTHER) is not in the project; black is in its place.',
    ]);
  });

  const one = (text: string, footage = known) => parseEdl(text, rate(24), footage);

  test('a transition is of the clip it goes to; keys are left out with a word; LOC comments are cues', () => {
    const list = `TITLE: x
001  AX V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: marble-bell.mov
002  AX V C 00:00:01:00 00:00:01:00 01:00:01:00 01:00:01:00
002  AX V D 012 00:00:02:00 00:00:03:00 01:00:01:00 01:00:02:00
* FROM CLIP NAME: marble-bell.mov
* TO CLIP NAME: paper boat.mov
* LOC: 01:00:01:12 RED     mast
003  AX V K B 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
004  AX V KO 024 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
`;
    const { project, losses } = one(list);
    expect(placeItems(project).map(({ item }) => item.kind === 'clip' && item.sourceId)).toEqual(['bell', 'boat']);
    expect(project.reel.cues).toMatchObject([{ frame: 36, name: 'mast' }]);
    expect(losses.filter((loss) => /is a key/.test(loss)).length).toBeGreaterThanOrEqual(1);
  });

  test('a list, and a tape, may go over midnight', () => {
    const list =
      '001 PAPERBOA V C 23:59:59:12 00:00:00:12 23:59:59:00 00:00:00:00\n002 PAPERBOA V C 00:00:01:00 00:00:02:00 00:00:00:00 00:00:01:00\n';
    const { project } = one(list);
    expect(placeItems(project).map(({ start, frames }) => [start, frames])).toEqual([
      [0, 24],
      [24, 24],
    ]);
  });

  test('FCM may change between events', () => {
    const list =
      'FCM: NON-DROP FRAME\n1 PAPERBOA V C 00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00\nFCM: DROP FRAME\n2 PAPERBOA V C 00:00:59;28 00:01:00;04 01:00:10:00 01:00:10:04\n';
    const { project } = parseEdl(
      list,
      rate(30000, 1001),
      known.map((f) => ({ ...f, nativeRate: rate(30000, 1001), frames: 5000 })),
    );
    expect(placeItems(project).at(-1)!.frames).toBe(4);
  });

  test.each([
    ['UTF-16 with a mark', Buffer.from('\ufeffTITLE: Märchen', 'utf16le')],
    ['UTF-16 the other way round', Buffer.from('\ufeffTITLE: Märchen', 'utf16le').swap16()],
    ['UTF-16 without one', Buffer.from('TITLE: Märchen', 'utf16le')],
    ['Latin-1', Buffer.from('TITLE: Märchen', 'latin1')],
    ['UTF-8', Buffer.from('TITLE: Märchen')],
  ])('%s is read', (_, bytes) => expect(decodeText(bytes).replace('\ufeff', '')).toBe('TITLE: Märchen'));

  test('drop-frame lists count as they do, and a file’s own start timecode is where its frames are', () => {
    const list = 'FCM: DROP FRAME\r\n1 PAPERBOA V C 10:00:59:28 10:01:00:04 00:00:59:28 00:01:00:04\r\n';
    const [, paper] = known;
    const at = (startTimecode: string | null) => {
      const { project } = parseEdl(list, rate(30000, 1001), [
        { ...paper!, nativeRate: rate(30000, 1001), startTimecode },
      ]);
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
    ['TITLE: x\n001  A  V  C  soon', /^line 2: begins like an event and is not one/],
  ])('%j is refused', (text, message) => expect(() => parseEdl(text, rate(24), known)).toThrow(message));
});

test('an event on a track that is neither picture nor sound is left out and said', () => {
  const event = (number: string, track: string) =>
    `${number}  MARBLEBE ${track.padEnd(5)} C        00:00:01:00 00:00:02:00 01:00:00:00 01:00:01:00`;
  const list = [
    'TITLE: PARADE',
    'FCM: NON-DROP FRAME',
    '',
    event('001', 'NONE'),
    event('002', 'A2'),
    event('003', 'V'),
  ];
  const { project, losses } = parseEdl(list.join('\r\n'), rate(24), [{ ...known[0]!, name: 'marblebe' }]);
  expect(placeItems(project)).toHaveLength(1);
  expect(losses).toEqual(
    expect.arrayContaining([
      'Event 001 is on track NONE, which is no picture, and is left out.',
      'Event 002 is sound and is left out.',
    ]),
  );
});

test('more events than ten full lists have are refused, by their line', () => {
  const code = (seconds: number) => {
    const two = (n: number) => String(n).padStart(2, '0');
    return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}:00`;
  };
  const list = (count: number) =>
    Array.from(
      { length: count },
      (_, i) =>
        `${String((i % 999) + 1).padStart(3, '0')}  MARBLEBE V     C        00:00:01:00 00:00:02:00 ${code(i)} ${code(i + 1)}`,
    ).join('\r\n');
  const footage = [{ ...known[0]!, name: 'marblebe' }];
  expect(() => parseEdl(list(9991), rate(24), footage)).toThrow(/line 9991.*one event too many/);
});
