import { bell, boat, parade, urlOf } from '../../test/hand-over-parade.js';
import { mapArbitrary } from '../../test/arbitraries.js';
import { readOtioStrictly } from '../../test/strict-otio.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { addSound } from '../edit/sounds.js';
import { placeItems, reelFrames } from '../reel/places.js';
import { rate } from '../time/rate.js';
import { parseOtio } from './otio-read.js';
import { formatOtio, OTIO_NAMESPACE } from './otio.js';
import { piecesOf } from './pieces.js';
import { shownFrames } from './shown-frames.js';

describe('another tool’s OpenTimelineIO', () => {
  const known = [bell, boat].map(({ id, name, frames, nativeRate }) => ({
    id,
    name: `${name}.mp4`,
    frames,
    nativeRate,
  }));
  const time = (value: number, fps: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: fps });
  const range = (start: number, duration: number, fps: number) => ({
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: time(start, fps),
    duration: time(duration, fps),
  });
  const clip = (more: object = {}) => ({
    OTIO_SCHEMA: 'Clip.2',
    name: 'one',
    source_range: range(86400 + 10, 24, 24),
    effects: [],
    markers: [],
    enabled: true,
    media_references: {
      DEFAULT_MEDIA: {
        OTIO_SCHEMA: 'ExternalReference.1',
        target_url: 'file:///D:/card%201/paper%2C%20boat.mp4',
        available_range: range(86400, 240, 24),
      },
    },
    active_media_reference_key: 'DEFAULT_MEDIA',
    ...more,
  });
  const of = (children: object[], track: object = {}, before: object[] = []) => ({
    OTIO_SCHEMA: 'Timeline.1',
    name: 'x',
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      children: [
        ...before,
        { OTIO_SCHEMA: 'Track.1', kind: 'Video', source_range: null, children, markers: [], ...track },
      ],
    },
  });
  const shows = (timeline: object) => {
    const { project, losses } = parseOtio(JSON.parse(JSON.stringify(timeline)), known);
    return {
      frames: shownFrames(project).map((frame) => frame && Math.round(frame.native * 100) / 100),
      project,
      losses,
    };
  };

  test('media times count from where the media begin', () => {
    expect(shows(of([clip()])).frames.slice(0, 3)).toEqual([10, 11, 12]);
  });

  test('rates as tools write them are the ones they mean', () => {
    for (const written of [23.976023976, 23.976, 23.98])
      expect(shows(of([clip({ source_range: range(86400, 24, written) })])).project.reel.rate).toEqual(
        rate(24000, 1001),
      );
    expect(shows(of([clip({ source_range: range(86400, 24, 29.97002997) })])).project.reel.rate).toEqual(
      rate(30000, 1001),
    );
  });

  test('no source range is all of the media; an empty first track, sounds and disabled clips are told', () => {
    const empty = { OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [] };
    const whole = shows(
      of([clip({ source_range: null }), clip({ enabled: false })], {}, [
        empty,
        { OTIO_SCHEMA: 'Track.1', kind: 'Audio', children: [] },
      ]),
    );
    expect([whole.frames.length, whole.frames[0], whole.frames[239], whole.frames[240]]).toEqual([
      264,
      0,
      239,
      undefined,
    ]);
    expect(whole.losses.join(' ')).toMatch(/1 sound track is left out\..*"one" is disabled/);
  });

  test('a track that shows a part of itself; what is nested is a gap of its length', () => {
    const part = shows(
      of([clip(), clip({ source_range: range(86400 + 100, 24, 24) })], { source_range: range(20, 10, 24) }),
    );
    expect(part.frames).toEqual([30, 31, 32, 33, 100, 101, 102, 103, 104, 105]);
    const nested = shows(
      of([
        { OTIO_SCHEMA: 'Stack.1', name: 'inner', children: [{ OTIO_SCHEMA: 'Track.1', children: [clip(), clip()] }] },
        clip(),
      ]),
    );
    expect([nested.frames.length, nested.frames[47], nested.frames[48]]).toEqual([72, undefined, 10]);
    expect(nested.losses.join()).toMatch(/Stack "inner" is nested/);
  });

  test('markers on clips are cues where they show', () => {
    const marked = clip({
      effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 }],
      markers: [{ OTIO_SCHEMA: 'Marker.2', name: 'mast', marked_range: range(86400 + 20, 0, 24) }],
    });
    const { project } = shows(of([clip(), marked]));
    expect(project.reel.cues).toMatchObject([{ frame: 29, name: 'mast' }]);
  });

  test('our own file that another tool edited is read from its tracks, and that is said; written again in another order it is still ours', () => {
    const ours = JSON.parse(
      JSON.stringify(formatOtio(parade(), 'x', (id) => `${id === 'boat' ? 'paper, boat' : 'marble-bell'}.mp4`)),
    );
    const sorted = (value: any): any =>
      Array.isArray(value)
        ? value.map(sorted)
        : value && typeof value === 'object'
          ? Object.fromEntries(
              Object.keys(value)
                .sort()
                .map((key) => [key, sorted(value[key])]),
            )
          : typeof value === 'number'
            ? value + 1e-9
            : value;
    const again = { ...sorted(ours), metadata: ours.metadata };
    expect(parseOtio(again, known)).toEqual({ project: parade(), losses: [] });
    ours.tracks.children[0].children[0].source_range.start_time.value = 240;
    const edited = shows(ours);
    expect(edited.losses[0]).toMatch(/Another tool has changed this file/);
    expect(edited.frames[0]).toBe(240);
  });

  test('music is an audio track', () => {
    const project = addSound(parade(), {
      id: 'm',
      footageId: 'march',
      name: 'parade march',
      startSeconds: 1,
      fromSeconds: 2,
      toSeconds: 10,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      beats: null,
    });
    const tracks = (formatOtio(project, 'x', (id) => `${id}.ogg`) as any).tracks.children;
    expect(tracks[1]).toMatchObject({
      kind: 'Audio',
      children: [
        { OTIO_SCHEMA: 'Gap.1' },
        {
          source_range: { start_time: { value: 48 }, duration: { value: 192 } },
          media_reference: { target_url: 'march.ogg' },
        },
      ],
    });
    readOtioStrictly(JSON.parse(JSON.stringify(formatOtio(project, 'x', urlOf))));
  });
});

describe('OpenTimelineIO', () => {
  test('ours is the very project again', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const project = updateClip(parade(), 'a', (c) => withMap(c, map));
        expect(parseOtio(JSON.parse(JSON.stringify(formatOtio(project, 'Marble Parade', urlOf))), [])).toEqual({
          project,
          losses: [],
        });
      }),
      { numRuns: 30 },
    );
  });

  test('times of a file begin at its start timecode, where it has one, and are read back from there', () => {
    const file = JSON.parse(
      JSON.stringify(formatOtio(parade(), 'x', urlOf, (id) => (id === 'bell' ? '10:00:00:00' : null))),
    );
    const [first, , boatClip] = file.tracks.children[0].children;
    expect(first.media_reference.available_range.start_time).toMatchObject({ value: 36_000 * 120, rate: 120 });
    expect(first.source_range.start_time).toMatchObject({ value: 36_000 * 120 + 120, rate: 120 });
    expect(boatClip.media_reference.available_range.start_time.value).toBe(0);
    delete file.metadata.idle_bend;
    const footage = [bell, boat].map(({ id, frames, nativeRate }) => ({ id, name: `${id}.mp4`, frames, nativeRate }));
    const read = shownFrames(parseOtio(file, footage).project).map((frame) => frame && Math.round(frame.native));
    expect(read).toEqual(shownFrames(parade()).map((frame) => frame && Math.round(frame.native)));
  });

  test('is in order by the schema, whatever the curves', () => {
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, (a, b) => {
        const project = updateClip(
          updateClip(parade(), 'a', (c) => withMap(c, a)),
          'b',
          (c) => withMap(c, b),
        );
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
    expect(track.markers).toMatchObject([
      { OTIO_SCHEMA: 'Marker.2', name: 'bell', marked_range: { start_time: { value: 30, rate: 24 } } },
    ]);
    const length = track.children.reduce((sum: number, c: any) => sum + c.source_range.duration.value, 0);
    expect(length).toBe(reelFrames(parade()));
  });

  test('another tool’s is taken by its standard parts: lengths, speeds, freezes, gaps and cues', () => {
    const timeline = JSON.parse(JSON.stringify(formatOtio(parade(), 'x', urlOf)));
    delete timeline.metadata[OTIO_NAMESPACE];
    const known = [bell, boat].map(({ id, name, frames, nativeRate }) => ({
      id,
      name: id === 'boat' ? 'boat.mp4' : `${name}.mp4`,
      frames,
      nativeRate,
    }));
    const { project, losses } = parseOtio(timeline, known);
    expect(losses).toEqual([]);
    const [before, after] = [piecesOf(parade()), piecesOf(project)];
    expect(
      after.map(({ from, to, of }) => [
        from,
        to,
        of?.source.id,
        of && Math.round(of.speed * 1e6),
        of && Math.round(of.start * 1e6),
      ]),
    ).toEqual(
      before.map(({ from, to, of }) => [
        from,
        to,
        of?.source.id,
        of && Math.round(of.speed * 1e6),
        of && Math.round(of.start * 1e6),
      ]),
    );
    expect(project.reel.cues.map(({ frame, name }) => [frame, name])).toEqual([[30, 'bell']]);
    const without = parseOtio(timeline, known.slice(0, 1));
    expect(without.losses[0]).toMatch(/The footage of "paper, boat" is not in the project/);
    expect(placeItems(without.project).map(({ frames }) => frames)).toEqual(
      placeItems(project).map(({ frames }) => frames),
    );
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
