import { pinClip } from '../edit/reel-edit.js';
import { cueOnSound } from '../edit/sounds.js';
import { InvalidInput } from '../foundation/errors.js';
import type { Clip } from '../model/clip.js';
import type { Moment } from '../model/source.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { reelBeats } from '../reel/sound-time.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import { framesPerSecond } from '../time/rate.js';
import { positionAt } from '../time-map/evaluate.js';
import { clipDrifts } from './drift.js';

/** What a moment may land on, or a cut be kept on: a cue, or a place of a sound, which becomes one. `frame` is a reel frame. */
export type Target = { readonly frame: number } & (
  { readonly cueId: string } | { readonly soundId: string; readonly second: number }
);

const nearestTo = <T>(list: readonly T[], distance: (entry: T) => number): T | undefined =>
  list.reduce<T | undefined>(
    (best, entry) => (best === undefined || distance(entry) < distance(best) ? entry : best),
    undefined,
  );

/** Everything there is to land on. A cue that stands on a beat is that cue. */
function targetsOf(project: Project): Target[] {
  const { cues } = project.reel;
  const taken = new Set(cues.flatMap(({ beat }) => (beat ? [`${beat.soundId} ${beat.second}`] : [])));
  const beats = reelBeats(project).filter(({ soundId, second }) => !taken.has(`${soundId} ${second}`));
  return [
    ...cues.map((cue): Target => ({ frame: cue.frame, cueId: cue.id })),
    ...beats.map(({ frame, soundId, second }): Target => ({ frame, soundId, second })),
  ];
}

/** What there is to land on within a clip of the reel, in order. */
export function targetsIn(project: Project, clipId: string): Target[] {
  const place = placeOf(project, clipId);
  if (!place) return [];
  const isInside = (frame: number) => frame >= place.start && frame < place.start + place.frames;
  return targetsOf(project)
    .filter(({ frame }) => isInside(Math.round(frame)))
    .sort((a, b) => a.frame - b.frame);
}

/** What the editor has selected, where that says which moment or cue is meant. */
interface LandingChoice {
  readonly momentId?: string | undefined;
  readonly cueId?: string | undefined;
}

/**
 * The moment and the target a landing is asked for with frame k of a clip in sight: those chosen, else the moment nearest to the
 * picture, and the cue or beat nearest to where it shows. A cue somebody set is meant before a beat that is less than half a second
 * nearer. Nothing where the clip has no moment, or the reel nothing to land on.
 */
export function proposeLanding(
  project: Project,
  clipId: string,
  k: number,
  { momentId, cueId }: LandingChoice = {},
): { readonly moment: Moment; readonly target: Target } | undefined {
  const place = placeOf(project, clipId);
  if (place?.item.kind !== 'clip') return undefined;
  const clip: Clip = place.item;
  const source = sourceOf(project, clip);
  const shown = positionAt(clip.map, k);
  const moment =
    source.moments.find(({ id }) => id === momentId) ??
    nearestTo(source.moments, (each) => Math.abs(positionOfFrame(source, each.frame) - shown));
  if (!moment) return undefined;
  const cue = project.reel.cues.find(({ id }) => id === cueId);
  if (cue) return { moment, target: { frame: cue.frame, cueId: cue.id } };
  // Where the moment shows, of several appearances the one nearest to what is in sight.
  const inSight = { id: '', frame: place.start + k, name: '', beat: null };
  const untied = { map: clip.map, ties: [] };
  const placeOfMoment = (frame: number) => positionOfFrame(source, frame);
  const [appears] = clipDrifts(untied, place.start, Infinity, [moment], [inSight], placeOfMoment);
  const at = appears?.shownAt ?? inSight.frame;
  const ahead = framesPerSecond(project.reel.rate) / 2;
  const away = (each: Target) => Math.max(0, Math.abs(each.frame - at) - ('cueId' in each ? ahead : 0));
  const inClip = targetsIn(project, clipId);
  const target = nearestTo(inClip.length > 0 ? inClip : targetsOf(project), away);
  return target && { moment, target };
}

/** The project with a cue where the target is: its own, or a new one of that id on the sound. */
export const withCueAt = (project: Project, target: Target, newId: string): { project: Project; cueId: string } =>
  'cueId' in target ? { project, cueId: target.cueId } : cueOnSound(project, target.soundId, target.second, newId);

/** Keeps the cut before a clip on the cue or beat nearest to it. Throws `InvalidInput` on a reel without cues and beats. */
export function pinToNearest(project: Project, clipId: string, newId: string): Project {
  const start = placeOf(project, clipId)?.start ?? 0;
  const nearest = nearestTo(targetsOf(project), ({ frame }) => Math.abs(frame - start));
  if (!nearest)
    throw new InvalidInput('cue', 'set one first (C), or lay music under the reel: where the cut is to stay');
  const { project: cued, cueId } = withCueAt(project, nearest, newId);
  return pinClip(cued, clipId, cueId);
}
