import { expect, test } from '@jest/globals';
import { editorsMap, landingsFor, numbers } from '../../test/editors-maps.js';
import { realFrames, reachPhases } from '../clean/real-frames.js';
import { reelDrifts } from '../landing/land-reel.js';
import { emptyProject, type Project } from '../model/project.js';
import type { Clip } from '../model/clip.js';
import { plainClip } from '../reel/clips.js';
import { withMap } from '../reel/with-map.js';
import { rate } from '../time/rate.js';
import { type LayChoice, layClips, planLay } from './lay.js';

/** Eight bent clips one after another, each with so many moments, over music of a steady tempo. */
function reelOf(moments: number, beatsAMinute: number, random: () => number): Project {
  const base = emptyProject(rate(24));
  const sources = Array.from({ length: 8 }, (_, i) => {
    const map = editorsMap(random);
    const marked = landingsFor(map, moments, 0, random).map(({ moment }) => moment);
    const source = {
      ...{ id: `f${i}`, name: `film ${i}`, nativeRate: rate(24), readAs: rate(24), droppedRepeats: null },
      frames: Math.max(...map.vertices.map(({ s }) => s)) + 150,
      moments: [...new Set(marked)].map((frame, k) => ({ id: `m${i}-${k}`, frame, name: '' })),
    };
    return { source, clip: withMap(plainClip(`c${i}`, source, base.reel.rate), map) };
  });
  const times = Array.from({ length: 400 }, (_, i) => 0.24 + (60 / beatsAMinute) * i);
  const sound = {
    ...{ id: 's', footageId: 'f', name: 'tune', startSeconds: 0, fromSeconds: 0, toSeconds: 300, gainDb: 0 },
    ...{ fadeInSeconds: 0, fadeOutSeconds: 0, beats: { times, bar: { beats: 4, first: 0 } } },
  };
  return {
    ...base,
    sources: sources.map(({ source }) => source),
    reel: { ...base.reel, items: sources.map(({ clip }) => clip), sounds: [sound] },
  };
}

const CHOICE: LayChoice = {
  soundId: 's',
  lengths: [1, 2, 4, 8, 16],
  limits: { slowest: 0.2, fastest: 5 },
  onBars: true,
  kept: {},
};

test.each([
  [1, 0.97, 0.98],
  [2, 0.95, 0.94],
])(
  'laid on music, bent clips with %i moments keep nearly all their real frames and clean speeds, and begin within their source',
  (moments, kept, clean) => {
    const share = { before: 0, after: 0, of: 0, was: 0 };
    let [reaches, cleanReaches, landed, ties] = [0, 0, 0, 0];
    for (const [n, tempo] of [117, 100, 128, 90, 140, 123].entries()) {
      const project = reelOf(moments, tempo, numbers(40 + 13 * n + moments));
      const clips = project.reel.items as Clip[];
      const plan = planLay(
        project,
        clips.map(({ id }) => id),
        CHOICE,
      )!;
      let id = 0;
      const laid = layClips(project, plan, CHOICE, () => `q${id++}`).project;
      for (const [i, clip] of (laid.reel.items.filter(({ kind }) => kind === 'clip') as Clip[]).entries()) {
        const [was, is] = [realFrames(clips[i]!.map), realFrames(clip.map)];
        share.before += was.real;
        share.was += was.of;
        share.after += is.real;
        share.of += is.of;
        const phases = reachPhases(clip.map);
        reaches += phases.length;
        cleanReaches += phases.filter((phase) => phase.clean).length;
        expect(clip.map.vertices[0]!.s).toBeGreaterThanOrEqual(0);
      }
      const drifts = reelDrifts(laid);
      ties += drifts.length;
      landed += drifts.filter((drift) => drift.landed).length;
    }
    expect(share.after / share.of / (share.before / share.was)).toBeGreaterThan(kept);
    expect(cleanReaches / reaches).toBeGreaterThan(clean);
    expect(landed / ties).toBeGreaterThan(0.95);
  },
);
