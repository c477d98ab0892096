import { addMoment } from '../edit/edit.js';
import type { Hit, HitKind } from '../health/hits.js';
import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import { framesPerSecond } from '../time/rate.js';
import { framesShowing } from '../time-map/inverse.js';

/** A source frame that looks, or sounds, like one an editor may care about. */
export interface FoundMoment {
  /** Native source frame. */
  readonly frame: number;
  /** The clip's frame that shows it. */
  readonly shownAt: number;
  /** What makes it look so; `sound` where only the clip's own sound does. */
  readonly kind: HitKind | 'sound';
  readonly score: number;
}

/** What begins in a clip's own sound: when, in seconds of its source, and how strong, 0 … 1. */
interface HeardOnset {
  readonly time: number;
  readonly strength: number;
}

/** What was found of a source. */
export interface FoundIn {
  readonly hits: readonly Hit[];
  readonly onsets: readonly HeardOnset[];
}

/** Sound and picture this close, in native frames, are of one hit. */
const TOGETHER = 2;

/** Closer to a moment that is marked than this a hit is that moment. */
const MARKED = 3;

/** Seconds of source between proposals. */
const APART = 0.2;

/** The strongest onset weighs as much as a change of motion that stands out by two to this power. */
const SOUND_WEIGHT = 2.5;

/** So near its first or last frame nothing is seen to hit. */
const EDGE = 2;

/** Weaker onsets propose nothing by themselves. */
const LEAST_ONSET = 0.5;

/** Moments to be marked in what a clip shows, the likeliest first: from its pictures, from its sound, and before either from both at once. */
export function findMoments(project: Project, clip: Clip, { hits, onsets }: FoundIn): FoundMoment[] {
  const source = sourceOf(project, clip);
  const frames = placeOf(project, clip.id)?.frames ?? 0;
  const fps = framesPerSecond(source.nativeRate);
  const heard = onsets.map(({ time, strength }) => ({ frame: Math.round(time * fps), strength }));
  const soundAt = (frame: number) =>
    Math.max(0, ...heard.filter((onset) => Math.abs(onset.frame - frame) <= TOGETHER).map(({ strength }) => strength));
  const seen = hits.map(({ frame, kind, strength }) => ({
    frame,
    kind,
    score: Math.log2(strength) + SOUND_WEIGHT * soundAt(frame),
  }));
  const onlyHeard = heard
    .filter(
      ({ frame, strength }) => strength >= LEAST_ONSET && hits.every((hit) => Math.abs(hit.frame - frame) > TOGETHER),
    )
    .map(({ frame, strength }) => ({ frame, kind: 'sound' as const, score: SOUND_WEIGHT * strength }));
  const found: FoundMoment[] = [];
  for (const each of [...seen, ...onlyHeard].sort((a, b) => b.score - a.score)) {
    if (each.frame < 0 || each.frame >= source.frames) continue;
    if (source.moments.some(({ frame }) => Math.abs(frame - each.frame) < MARKED)) continue;
    if (found.some(({ frame }) => Math.abs(frame - each.frame) < APART * fps)) continue;
    const shownAt = framesShowing(clip.map, positionOfFrame(source, each.frame)).find(
      (k) => k >= EDGE && k < frames - EDGE,
    );
    if (shownAt !== undefined) found.push({ ...each, shownAt });
  }
  return found;
}

/** The project with the likeliest hit marked in each of those clips that shows no moment; clips where nothing is found are as they were. */
export function markFound(
  project: Project,
  clipIds: readonly string[],
  of: (sourceId: string) => FoundIn | undefined,
): Project {
  return clipIds.reduce((marked, id) => {
    const clip = marked.reel.items.find((item) => item.id === id);
    const found = clip?.kind === 'clip' ? of(clip.sourceId) : undefined;
    if (clip?.kind !== 'clip' || !found) return marked;
    const source = sourceOf(marked, clip);
    const frames = placeOf(marked, id)!.frames;
    const shows = ({ frame }: { readonly frame: number }) =>
      framesShowing(clip.map, positionOfFrame(source, frame)).some((k) => k >= 0 && k < frames);
    const best = source.moments.some(shows) ? undefined : findMoments(marked, clip, found)[0];
    if (!best) return marked;
    return addMoment(marked, source.id, {
      id: `found-${source.id}-${best.frame}`.slice(-60),
      frame: best.frame,
      name: FOUND_NAMES[best.kind],
    });
  }, project);
}

/** What a moment that was found is called. */
export const FOUND_NAMES: Readonly<Record<FoundMoment['kind'], string>> = {
  turn: 'possible hit',
  burst: 'possible hit',
  flash: 'flash',
  sound: 'sound begins',
};
