import { bell, boat, parade, urlOf } from '../../test/hand-over-parade.js';
import { mapArbitrary } from '../../test/arbitraries.js';
import { placesInEdl, placesInOtio, rowsOfMap } from '../../test/hand-over-readers.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { putAccents } from '../accent/edit-accents.js';
import { addCue, addSource, appendClip, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { insertGap } from '../edit/reel-edit.js';
import { addSound } from '../edit/sounds.js';
import { groupItems } from '../group/group-items.js';
import { emptyProject, type Project } from '../model/project.js';
import { mapClips } from '../reel/clips.js';
import { placeItems, reelFrames } from '../reel/places.js';
import { nowOf } from '../sampling/sample.js';
import { freezeAt } from '../time-map/freeze.js';
import { bendWindow, type TimeMap } from '../time-map/time-map.js';
import { framesPerSecond, rate } from '../time/rate.js';
import { formatEdl } from './edl.js';
import { formatFrameMap } from './frame-map.js';
import { parseOtio } from './otio-read.js';
import { formatOtio } from './otio.js';
import { lossesOf, piecesOf } from './pieces.js';
import { shownFrames } from './shown-frames.js';

describe('the reel in pieces of one speed', () => {
  test('covers every frame once, in order, whatever the curves', () => {
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, (first, second) => {
        let project = parade();
        project = updateClip(
          updateClip(project, 'a', (c) => withMap(c, first)),
          'b',
          (c) => withMap(c, second),
        );
        const pieces = piecesOf(project);
        expect(pieces[0]!.from).toBe(0);
        pieces.slice(1).forEach((piece, i) => expect(piece.from).toBe(pieces[i]!.to));
        expect(pieces.at(-1)!.to).toBe(reelFrames(project));
        for (const { from, to } of pieces) expect(to).toBeGreaterThan(from);
      }),
    );
  });

  test('says what cannot be handed over', () => {
    const silent = (p: Project) => mapClips(p, (c) => ({ ...c, sound: { ...c.sound, mode: 'mute' } }));
    expect(lossesOf(silent(parade()))).toEqual([]);
    expect(lossesOf(parade())).toEqual(['What is heard of the clips themselves is left out.']);
    const bent = updateClip(parade(), 'b', (c) =>
      withMap(c, freezeAt(c.map, 40, 4, { widthFrames: 3, ease: 'soft' }).map),
    );
    expect(lossesOf(silent(bent))).toEqual([
      'One clip has gradual changes of speed, given as steps within half a frame.',
    ]);
    const blurred = { ...bent, reel: { ...bent.reel, blur: { kind: 'shutter', angle: 180, always: false } as const } };
    expect(lossesOf(blurred)).toContain('2 clips have motion blur, which is left out.');
  });
});

describe('an edit decision list', () => {
  test('has an event for every speed, in the manner of CMX 3600', () => {
    const text = formatEdl(parade(), 'Marble Parade').lists[0]!;
    const lines = text.split('\r\n');
    expect(lines.slice(0, 2)).toEqual(['TITLE: Marble Parade', 'FCM: NON-DROP FRAME']);
    expect(text).toContain(
      '001  MARBLEBE V     C        00:00:01:00 00:00:02:01 01:00:00:00 01:00:02:00\r\nM2   MARBLEBE       012.0                00:00:01:00',
    );
    expect(text).toContain('002  BL       V     C        00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00');
    expect(text).toMatch(/M2 {3}PAPERBOA {7}-24\.0/);
    expect(text).toMatch(/M2 {3}PAPERBOA {7}000\.0[\s\S]*\* FREEZE FRAME: SOURCE FRAME \d+/);
    expect(lines.every((line) => line.length <= 80)).toBe(true);
  });

  test('counts drop-frame where the rate has it and it is asked for', () => {
    const ntsc = { ...parade(), reel: { ...parade().reel, rate: rate(30000, 1001) } };
    expect(formatEdl(ntsc, 'x', { drop: true }).lists[0]).toMatch(/FCM: DROP FRAME[\s\S]*01:00:00;00/);
    expect(formatEdl(parade(), 'x', { drop: true }).lists[0]).toContain('FCM: NON-DROP FRAME');
  });

  test('counts as the timecodes of its footage do where nobody says, and names files as they are on the disk', () => {
    const ntsc = { ...parade(), reel: { ...parade().reel, rate: rate(30000, 1001) } };
    const starts = (bellStart: string | null, boatStart: string | null) => (id: string) =>
      id === 'bell' ? bellStart : boatStart;
    const counted = (project: Project, startOf: (id: string) => string | null, drop?: boolean) =>
      /FCM: (.*)/.exec(formatEdl(project, 'x', { startOf, drop }).lists[0]!)![1];
    const dropped = starts('00:59:58;00', null);
    expect(counted(ntsc, dropped)).toBe('DROP FRAME');
    expect(counted(ntsc, dropped, false)).toBe('NON-DROP FRAME');
    expect(counted(parade(), dropped)).toBe('NON-DROP FRAME');
    expect(counted(ntsc, starts('00:59:58;00', '00:00:00:00'))).toBe('NON-DROP FRAME');
    expect(counted(ntsc, starts(null, null))).toBe('NON-DROP FRAME');
    const files = formatEdl(ntsc, 'x', { fileOf: (id) => `${id} 01.MOV` }).lists[0];
    expect(files).toContain('* SOURCE FILE: bell 01.MOV\r\n');
  });
});

describe('the frame map', () => {
  test('has every frame of the reel, with the source frame and the way to the next', () => {
    const rows = formatFrameMap(parade(), (id) => `${id}.mp4`)
      .trimEnd()
      .split('\r\n');
    expect(rows).toHaveLength(1 + reelFrames(parade()));
    expect(rows[0]).toBe('frame,clip,source,file,source frame,towards,fraction,method');
    expect(rows[2]).toBe('1,marble-bell,marble-bell,bell.mp4,122,,0,step');
    expect(rows[50]).toBe('49,,,,,,,');
    expect(rows[73]).toMatch(/^72,"paper, boat","paper, boat",boat\.mp4,47,,0,step$/);
  });
});

/** A reel with what makes hand-overs hard: bends, a group bent as one, closed-up repeats, an end that loops, a stutter, another rate. */
function hard(first: TimeMap, second: TimeMap): Project {
  let project = [bell, { ...boat, droppedRepeats: { mode: 'close' as const, repeats: [3, 4, 9, 30, 31, 32] } }].reduce(
    addSource,
    emptyProject(rate(24000, 1001)),
  );
  project = appendClip(appendClip(appendClip(project, 'a', 'bell', 120, 239), 'b', 'boat', 0, 47), 'c', 'bell', 0, 60);
  project = updateClip(
    updateClip(project, 'a', (c) => withMap(c, first)),
    'b',
    (c) => ({ ...withMap(c, second), end: 'loop' as const }),
  );
  project = groupItems(project, ['a', 'b'], { clipId: 'g', sourceId: 'gs', name: 'bound' });
  const [group] = placeItems(project);
  project = updateClip(project, 'g', (c) =>
    withMap(c, {
      vertices: [
        { t: 0, s: 0 },
        { t: group!.frames / 2, s: group!.frames * 0.7 },
        { t: group!.frames, s: group!.frames - 1 },
      ],
      bends: [0, Math.min(6, group!.frames / 3), 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
    }),
  );
  project = addCue(insertGap(project, 1, 'gap', 12), { id: 'q', frame: 4, name: 'bell\nrings' });
  return putAccents(project, {
    id: 's',
    name: 'stutter',
    look: { kind: 'stutter', frames: 3 },
    strength: 1,
    on: { kind: 'cues', cueIds: ['q'] },
  });
}

/** Frames at which a hand-over has to be exact: cuts, and what lies on whole frames of the clips on the reel. */
const exactFrames = (project: Project) =>
  placeItems(project).flatMap(({ item, start, frames }) =>
    item.kind === 'gap'
      ? []
      : [
          start,
          ...item.map.vertices
            .flatMap(({ t }, i) => [t, bendWindow(item.map, i).from, bendWindow(item.map, i).to])
            .filter((t) => t > 0 && t < frames)
            .map((t) => start + Math.round(t)),
        ],
  );

describe('what a written file shows, read by something else', () => {
  const hours = (id: string) => ({ bell: '10:00:00:00', boat: '23:59:59;59' })[id];

  test('OpenTimelineIO: within half a source frame at every frame, exact at cuts and where bends begin and end', () => {
    let frames = 0;
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, (first, second) => {
        const project = hard(first, second);
        const shown = shownFrames(project);
        const places = placesInOtio(JSON.parse(JSON.stringify(formatOtio(project, 'x', urlOf, hours))));
        expect(places).toHaveLength(shown.length);
        shown.forEach((frame, k) => {
          expect(places[k]?.source).toBe(frame?.shown.source.name);
          if (frame) expect(Math.abs(places[k]!.at - frame.native)).toBeLessThanOrEqual(0.5);
          frames++;
        });
        for (const k of exactFrames(project)) if (shown[k]) expect(places[k]!.at).toBeCloseTo(shown[k].native, 6);
      }),
      { numRuns: 60 },
    );
    expect(frames).toBeGreaterThan(3000);
  });

  test.each([
    ['from its start timecode', false, { bell: '10:00:00:00', boat: '00:00:10:00' }],
    ['drop-frame', true, {}],
  ] as const)(
    'edit decision lists, %s: within half a frame of the list at every frame, exact where they can be',
    (_, drop, codes) => {
      fc.assert(
        fc.property(mapArbitrary, mapArbitrary, (first, second) => {
          const plain = hard(first, second);
          const project = drop ? { ...plain, reel: { ...plain.reel, rate: rate(30000, 1001) } } : plain;
          const fps = framesPerSecond(project.reel.rate);
          const shown = shownFrames(project);
          const startOf = (id: string) => (codes as Record<string, string>)[id];
          const { lists } = formatEdl(project, 'x', { drop, startOf });
          const places = placesInEdl(lists, drop ? 30 : 24, fps);
          expect(places).toHaveLength(shown.length);
          const starts: Record<string, number> =
            codes === undefined || drop ? {} : { bell: Math.round(36000 * fps), boat: Math.round(10 * fps) };
          const exact = new Set(exactFrames(project));
          shown.forEach((frame, k) => {
            if (!frame) return expect(places[k]).toBeUndefined();
            const { source } = frame.shown;
            const meant = (starts[source.id] ?? 0) + (frame.native / framesPerSecond(source.nativeRate)) * fps;
            expect(places[k]!.source).toBe(source.name);
            expect(Math.abs(places[k]!.at - meant)).toBeLessThanOrEqual(0.5 + 1e-6);
            if (exact.has(k)) expect(places[k]!.at).toBeCloseTo(Math.round(meant), 9);
          });
        }),
        { numRuns: 40 },
      );
    },
  );

  test('a record begins at one o’clock at every rate; names never break a line; cues are told', () => {
    for (const r of [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(60000, 1001)]) {
      const project = { ...parade(), reel: { ...parade().reel, rate: r } };
      const named = updateClip(project, 'a', (c) => ({ ...c, name: 'bell\r\n002  EVIL' }));
      const [list] = formatEdl(addCue(named, { id: 'z', frame: 3, name: 'ring\nout' }), 'Marble\nParade').lists;
      expect(list!.split('\r\n').find((line) => line.startsWith('001'))).toMatch(/ 01:00:00:00 \S+$/);
      expect(list).toContain('* FROM CLIP NAME: bell 002  EVIL');
      expect(list).toMatch(/\* LOC: 01:00:00:03 GREEN {3}ring out/);
    }
  });

  test('a reel of more than 999 events is several lists that go on from one another', () => {
    const steps = Array.from({ length: 1201 }, (_, i) => ({ t: 2 * i, s: (i % 2) * 4 + i * 0.2 }));
    const bent = updateClip(
      addSource(appendClip(addSource(emptyProject(rate(24)), bell), 'a', 'bell'), boat),
      'a',
      (c) => withMap(c, { vertices: steps, bends: steps.map(() => ({ widthFrames: 0, ease: 'soft' as const })) }),
    );
    const { lists, losses } = formatEdl(bent, 'x');
    expect(lists.length).toBeGreaterThan(1);
    expect(losses.join()).not.toMatch(/ends after/);
    expect(placesInEdl(lists, 24, 24)).toHaveLength(reelFrames(bent));
    // Each event is in one list, and its number has three digits there.
    const numbers = lists.map((list) => list.match(/^\d+(?= {2}\S+ +V)/gm)!.map(Number));
    expect(numbers.map((own) => own.at(-1)! <= 999 && own.every((n, i) => n === i + 1))).not.toContain(false);
    expect(numbers.flat()).toHaveLength(piecesOf(bent).length);
  });

  test('the frame map says what is rendered: real frames, what is made of which, repeats left out, ends, stutters', () => {
    const project = hard(
      {
        vertices: [
          { t: 0, s: 100 },
          { t: 40, s: 130.5 },
        ],
        bends: [0, 0].map(() => ({ widthFrames: 0, ease: 'soft' as const })),
      },
      {
        vertices: [
          { t: 0, s: 0 },
          { t: 60, s: 260 },
        ],
        bends: [0, 0].map(() => ({ widthFrames: 0, ease: 'soft' as const })),
      },
    );
    const mixed = mapClips(project, (c) => (c.id === 'a' ? { ...c, method: 'mix' } : c));
    const rows = rowsOfMap(formatFrameMap(mixed, (id) => id));
    const shown = shownFrames(mixed);
    expect(rows).toHaveLength(shown.length);
    for (const [k, row] of rows.entries()) {
      const now = shown[k] && nowOf(shown[k].shown.sample);
      if (!now) expect(row.slice(1).join('')).toBe('');
      else if (now.kind === 'source') expect(row.slice(4)).toEqual([String(now.frame), '', '0', 'step']);
      else if (now.kind === 'mix') expect(row.slice(4, 6)).toEqual([String(now.a), String(now.b)]);
      if (row[2] === 'paper, boat') expect([3, 4, 9, 30, 31, 32].map(String)).not.toContain(row[4]);
    }
    // A stutter of three frames stands on its first.
    expect(rows[5]!.slice(4)).toEqual(rows[4]!.slice(4));
    expect(rows[6]!.slice(4)).toEqual(rows[4]!.slice(4));
  });
});

describe('what a hand-over leaves nobody to guess', () => {
  /** Every object in a file. */
  const all = (value: unknown): Record<string, any>[] =>
    typeof value !== 'object' || value === null
      ? []
      : [...(Array.isArray(value) ? [] : [value]), ...Object.values(value).flatMap(all)];
  const march = {
    ...{
      id: 's',
      footageId: 'march',
      name: 'march',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: 5,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
    },
    beats: null,
  };

  test('everything in an OpenTimelineIO file is switched on', () => {
    const file = formatOtio(addSound(parade(), march), 'Marble Parade', urlOf) as { tracks: object };
    const switches = all(file.tracks).filter((each) => 'enabled' in each);
    expect(switches.length).toBeGreaterThan(5);
    expect(switches.every(({ enabled }) => enabled === true)).toBe(true);
  });

  test('sounds are in an OpenTimelineIO file, and a list says that it leaves them out', () => {
    const project = addSound(parade(), march);
    const sentence = 'Sounds under the picture are left out.';
    expect(formatEdl(project, 'x').losses).toContain(sentence);
    expect(formatEdl(parade(), 'x').losses).not.toContain(sentence);
    const file = formatOtio(project, 'x', urlOf) as { tracks: { children: { kind: string; name: string }[] } };
    expect(file.tracks.children.map(({ kind, name }) => [kind, name])).toEqual([
      ['Video', 'picture'],
      ['Audio', 'march'],
    ]);
  });

  const footage = [bell, boat].map(({ id, name, frames, nativeRate }) => ({ id, name, frames, nativeRate }));
  /** A file of ours as another tool gives it back: without our own copy of the document. */
  const returned = (change: (tracks: any[]) => void) => {
    const file = structuredClone(formatOtio(parade(), 'x', (id) => [bell, boat].find((s) => s.id === id)!.name)) as any;
    file.metadata = {};
    change(file.tracks.children);
    return parseOtio(file, footage);
  };

  test('a clip that lasts nothing is no clip, and what is around it stays', () => {
    const { project: whole } = returned(() => undefined);
    const { project } = returned(([track]) => {
      const empty = structuredClone(track.children[0]);
      empty.source_range.duration.value = 0;
      track.children.splice(1, 0, empty);
    });
    expect(placeItems(project).map(({ start, frames }) => [start, frames])).toEqual(
      placeItems(whole).map(({ start, frames }) => [start, frames]),
    );
  });

  test('a track that is neither picture nor sound is said to be another one', () => {
    const { losses } = returned((tracks) => {
      tracks.push(
        { ...structuredClone(tracks[0]), kind: 'Subtitle' },
        { ...structuredClone(tracks[0]), kind: 'Audio' },
      );
    });
    expect(losses).toEqual(expect.arrayContaining(['1 sound track is left out.', '1 other track is left out.']));
  });
});
