import { byId } from '../foundation/by-id.js';
import type { Project } from '../model/project.js';
import { widthAsked } from '../time-map/time-map.js';

/** A bend that has less than the width it was given, timeline frames. */
export interface NarrowedBend {
  readonly clip: string;
  readonly widthFrames: number;
  readonly wanted: number;
}

/** Less than this, frames, nobody sees. */
const SEEN = 0.1;

/** The bends of clips in both projects that one edit has left narrower than they were given. */
export function narrowedBends(before: Project, after: Project): NarrowedBend[] {
  const had = byId(before.reel.items);
  return after.reel.items.flatMap((item) => {
    const old = had.get(item.id);
    if (item.kind !== 'clip' || old?.kind !== 'clip' || old.map === item.map) return [];
    const missing = item.map.bends.filter((bend) => widthAsked(bend) - bend.widthFrames > SEEN);
    const known = old.map.bends.filter((bend) => widthAsked(bend) - bend.widthFrames > SEEN).map(widthAsked);
    return missing.flatMap((bend) => {
      const wanted = widthAsked(bend);
      const at = known.indexOf(wanted);
      if (at >= 0) known.splice(at, 1);
      return at >= 0 ? [] : [{ clip: item.name, widthFrames: bend.widthFrames, wanted }];
    });
  });
}
