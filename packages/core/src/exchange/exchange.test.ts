import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mapArbitrary } from '../../test/arbitraries.js';
import { readOtioStrictly } from '../../test/strict-otio.js';
import { addCue, addSource, appendClip, updateClip, withMap } from '../project/edit.js';
import { emptyProject, placeItems, reelFrames, type Project, type Source } from '../project/project.js';
import { insertGap } from '../project/reel-edit.js';
import { rate } from '../rate/rate.js';
import { freezeAt } from '../time-map/freeze.js';
import { setClipSpeed } from '../time-map/edit.js';
import { reverseMap } from '../time-map/edit.js';
import { formatEdl } from './edl.js';
import { formatFrameMap } from './frame-map.js';
import { formatOtio, OTIO_NAMESPACE, parseOtio } from './otio.js';
import { lossesOf, piecesOf } from './pieces.js';

const bell: Source = { id: 'bell', name: 'marble-bell', frames: 600, nativeRate: rate(120), readAs: rate(120), moments: [], skips: null };
const boat: Source = { ...bell, id: 'boat', name: 'paper, boat', frames: 240, nativeRate: rate(24), readAs: rate(24) };

/** The bell at 50 %, a gap of a second, the boat backward with a freeze. */
function parade(): Project {
  let project = [bell, boat].reduce(addSource, emptyProject(rate(24)));
  project = appendClip(appendClip(project, 'a', 'bell', 120, 239), 'b', 'boat', 0, 47);
  project = updateClip(project, 'a', (clip) => withMap(clip, setClipSpeed(clip.map, 0.5, 5)));
  project = updateClip(project, 'b', (clip) => withMap(clip, freezeAt(reverseMap(clip.map), 12, 6, { widthFrames: 0, ease: 'soft' }).map));
  return addCue(insertGap(project, 1, 'gap', 24), { id: 'q', frame: 30, name: 'bell' });
}
const urlOf = (id: string) => `file:///footage/${id}.mp4`;

describe('the reel in pieces of one speed', () => {
  test('covers every frame once, in order, whatever the curves', () => {
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, (first, second) => {
        let project = parade();
        project = updateClip(updateClip(project, 'a', (c) => withMap(c, first)), 'b', (c) => withMap(c, second)); // prettier-ignore
        const pieces = piecesOf(project);
        expect(pieces[0]!.from).toBe(0);
        pieces.slice(1).forEach((piece, i) => expect(piece.from).toBe(pieces[i]!.to));
        expect(pieces.at(-1)!.to).toBe(reelFrames(project));
        for (const { from, to } of pieces) expect(to).toBeGreaterThan(from);
      }),
    );
  });

  test('says what cannot be handed over', () => {
    expect(lossesOf(parade())).toEqual([]);
    const bent = updateClip(parade(), 'b', (c) => withMap(c, freezeAt(c.map, 40, 4, { widthFrames: 3, ease: 'soft' }).map));
    expect(lossesOf(bent)).toEqual(['One clip has gradual changes of speed, given as steps.']);
  });
});

describe('an edit decision list', () => {
  test('has an event for every speed, in the manner of CMX 3600', () => {
    const { text } = formatEdl(parade(), 'Marble Parade');
    const lines = text.split('\r\n');
    expect(lines.slice(0, 2)).toEqual(['TITLE: Marble Parade', 'FCM: NON-DROP FRAME']);
    expect(text).toContain(
      '001  MARBLEBE V     C        00:00:01:00 00:00:02:00 01:00:00:00 01:00:02:00\r\nM2   MARBLEBE       012.0                00:00:01:00',
    );
    expect(text).toContain('002  BL       V     C        00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00');
    expect(text).toMatch(/M2 {3}PAPERBOA {7}-24\.0/);
    expect(text).toMatch(/M2 {3}PAPERBOA {7}000\.0[\s\S]*\* FREEZE FRAME: SOURCE FRAME \d+/);
    expect(lines.every((line) => line.length <= 80)).toBe(true);
  });

  test('counts drop-frame where the rate has it and it is asked for', () => {
    const ntsc = { ...parade(), reel: { ...parade().reel, rate: rate(30000, 1001) } };
    expect(formatEdl(ntsc, 'x', { drop: true }).text).toMatch(/FCM: DROP FRAME[\s\S]*01:00:00;00/);
    expect(formatEdl(parade(), 'x', { drop: true }).text).toContain('FCM: NON-DROP FRAME');
  });
});

describe('the frame map', () => {
  test('has every frame of the reel, with the source frame and the way to the next', () => {
    const rows = formatFrameMap(parade(), (id) => `${id}.mp4`)
      .trimEnd()
      .split('\r\n');
    expect(rows).toHaveLength(1 + reelFrames(parade()));
    expect(rows[0]).toBe('frame,clip,source,file,source frame,fraction,method');
    expect(rows[2]).toBe('1,marble-bell,marble-bell,bell.mp4,122,0.5,step');
    expect(rows[50]).toBe('49,,,,,,');
    expect(rows[73]).toMatch(/^72,"paper, boat","paper, boat",boat\.mp4,47,0,step$/);
  });
});

describe('OpenTimelineIO', () => {
  test('ours is the very project again', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const project = updateClip(parade(), 'a', (c) => withMap(c, map));
        expect(parseOtio(JSON.parse(JSON.stringify(formatOtio(project, 'Marble Parade', urlOf))), [])).toEqual({ project, losses: [] });
      }),
      { numRuns: 30 },
    );
  });

  test('is in order by the schema, whatever the curves', () => {
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, (a, b) => {
        const project = updateClip(updateClip(parade(), 'a', (c) => withMap(c, a)), 'b', (c) => withMap(c, b)); // prettier-ignore
        readOtioStrictly(JSON.parse(JSON.stringify(formatOtio(project, 'Marble Parade', urlOf))));
      }),
      { numRuns: 40 },
    );
    expect(() => readOtioStrictly({ OTIO_SCHEMA: 'Timeline.1', name: 'x' })).toThrow('timeline: has no metadata');
  });

  test('has the standard’s own clips, gaps, effects and markers', () => {
    const timeline = JSON.parse(JSON.stringify(formatOtio(parade(), 'Marble Parade', urlOf)));
    const [track] = timeline.tracks.children;
    expect(timeline.OTIO_SCHEMA).toBe('Timeline.1');
    expect(track.children.map((c: any) => c.OTIO_SCHEMA)).toEqual(['Clip.1', 'Gap.1', 'Clip.1', 'Clip.1', 'Clip.1']);
    expect(track.children[0]).toMatchObject({
      source_range: { start_time: { value: 120, rate: 120 }, duration: { value: 48, rate: 24 } },
      effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 0.5 }],
      media_reference: { target_url: 'file:///footage/bell.mp4' },
    });
    expect(track.children.map((c: any) => c.effects.map((e: any) => e.OTIO_SCHEMA)).flat()).toContain('FreezeFrame.1');
    expect(track.markers).toMatchObject([{ OTIO_SCHEMA: 'Marker.2', name: 'bell', marked_range: { start_time: { value: 30, rate: 24 } } }]);
    const length = track.children.reduce((sum: number, c: any) => sum + c.source_range.duration.value, 0);
    expect(length).toBe(reelFrames(parade()));
  });

  test('another tool’s is taken by its standard parts: lengths, speeds, freezes, gaps and cues', () => {
    const timeline = JSON.parse(JSON.stringify(formatOtio(parade(), 'x', urlOf)));
    delete timeline.metadata[OTIO_NAMESPACE];
    const known = [bell, boat].map(({ id, name, frames, nativeRate }) => ({ id, name: id === 'boat' ? 'boat.mp4' : `${name}.mp4`, frames, nativeRate }));
    const { project, losses } = parseOtio(timeline, known);
    expect(losses).toEqual([]);
    const [before, after] = [piecesOf(parade()), piecesOf(project)];
    expect(after.map(({ from, to, of }) => [from, to, of?.source.id, of && Math.round(of.speed * 1e6), of && Math.round(of.start * 1e6)])).toEqual(
      before.map(({ from, to, of }) => [from, to, of?.source.id, of && Math.round(of.speed * 1e6), of && Math.round(of.start * 1e6)]),
    );
    expect(project.reel.cues.map(({ frame, name }) => [frame, name])).toEqual([[30, 'bell']]);
    const without = parseOtio(timeline, known.slice(0, 1));
    expect(without.losses[0]).toMatch(/The footage of "paper, boat" is not in the project/);
    expect(placeItems(without.project).map(({ frames }) => frames)).toEqual(placeItems(project).map(({ frames }) => frames));
  });

  test('whatever comes in, either a project or a named error comes out', () => {
    const whole = JSON.parse(JSON.stringify(formatOtio(parade(), 'x', urlOf)));
    delete whole.metadata[OTIO_NAMESPACE];
    const spoil = (value: any, path: number[], by: unknown): any => {
      if (path.length === 0 || value === null || typeof value !== 'object') return by;
      const keys = Object.keys(value);
      if (keys.length === 0) return by;
      const key = keys[path[0]! % keys.length]!;
      const copy = Array.isArray(value) ? [...value] : { ...value };
      copy[key as never] = spoil(value[key], path.slice(1), by) as never;
      return copy;
    };
    fc.assert(
      fc.property(
        fc.array(fc.nat(), { minLength: 1, maxLength: 8 }),
        fc.oneof(fc.jsonValue(), fc.constant(null), fc.constant(-1), fc.constant('x')),
        (path, by) => {
          try {
            parseOtio(spoil(whole, path, by), []);
          } catch (error) {
            expect((error as Error).name).toBe('InvalidInput');
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});
