import type { Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { isWholeFrame } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';

/** What another rate of the reel does to a clip. */
export interface RateChange {
  readonly clipId: string;
  readonly name: string;
  readonly framesBefore: number;
  readonly framesAfter: number;
  /** The share of its frames that are real ones, 0…1. */
  readonly realBefore: number;
  readonly realAfter: number;
}

/** What changed from one project to another that has the same clips, clip by clip. */
export function rateChangeReport(before: Project, after: Project): RateChange[] {
  const later = new Map(placeItems(after).map((place) => [place.item.id, place]));
  return placeItems(before).flatMap(({ item, frames }) => {
    const then = later.get(item.id);
    if (item.kind !== 'clip' || then?.item.kind !== 'clip') return [];
    return [
      {
        clipId: item.id,
        name: item.name,
        framesBefore: frames,
        framesAfter: then.frames,
        realBefore: realShare(item.map, frames),
        realAfter: realShare(then.item.map, then.frames),
      },
    ];
  });
}

function realShare(map: Parameters<typeof positionAt>[0], frames: number): number {
  let real = 0;
  for (let k = 0; k < frames; k++) if (isWholeFrame(positionAt(map, k))) real++;
  return real / frames;
}
