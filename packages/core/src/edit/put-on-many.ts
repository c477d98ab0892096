import { InvalidInput } from '../foundation/errors.js';
import type { Blur } from '../model/blur.js';
import type { ClipSound } from '../model/clip-sound.js';
import type { Clip } from '../model/clip.js';
import type { Framing } from '../model/framing.js';
import type { Method } from '../model/interpolation.js';
import type { Project } from '../model/project.js';
import { clipSlope } from '../reel/clips.js';
import { putShape } from '../clean/put-shape.js';
import { asShape, copyCurve } from '../shape/clip-shapes.js';
import { parseRate } from '../time/rate.js';
import type { Ease } from '../time-map/ease.js';
import type { TimeMap } from '../time-map/time-map.js';
import { backToPlain, conform, setClipSound, setReadAs, updateClip } from './edit.js';
import { withMap } from '../reel/with-map.js';
import { setClipSpeed } from '../time-map/edit.js';
import { setClipBlur, setFraming } from './reel-edit.js';

/** Something that can be put on several clips at once. */
export type ForMany =
  | { readonly kind: 'shape'; readonly map: TimeMap }
  /** The curve of the clip on the bench, stretched to each clip or by its own frames and speeds. */
  | { readonly kind: 'curve'; readonly how: 'stretch' | 'frames' }
  | { readonly kind: 'bend'; readonly ease: Ease }
  | { readonly kind: 'readAs'; readonly rate: string }
  /** Read at the reel's rate, at 100 %. */
  | { readonly kind: 'conform' }
  | { readonly kind: 'method'; readonly method: Method }
  | { readonly kind: 'blur'; readonly blur: Blur | null }
  | { readonly kind: 'framing'; readonly framing: Framing | null }
  | { readonly kind: 'sound'; readonly sound: Partial<Omit<ClipSound, 'reaches'>> }
  /** Of the whole clip, 1 = 100 %; its curve stays what it is otherwise. */
  | { readonly kind: 'speed'; readonly speed: number }
  | { readonly kind: 'plain' };

/** The project with it put on one clip. Throws `InvalidInput` where it cannot be. */
function putOnClip(project: Project, clip: Clip, from: Clip, what: ForMany): Project {
  const map = (change: (map: TimeMap) => TimeMap) => updateClip(project, clip.id, (c) => withMap(c, change(c.map)));
  switch (what.kind) {
    case 'shape':
      return map((m) => putShape(what.map, m));
    case 'curve':
      if (clip.id === from.id) return project;
      return map((m) =>
        what.how === 'stretch'
          ? putShape(asShape(from.map), m)
          : copyCurve(from.map, m, { other: clipSlope(project, from), clip: clipSlope(project, clip) }),
      );
    case 'bend':
      return map((m) => ({ ...m, bends: m.bends.map((b) => (b.widthFrames > 0 ? { ...b, ease: what.ease } : b)) }));
    case 'readAs':
      return setReadAs(project, clip.sourceId, parseRate(what.rate));
    case 'conform':
      return conform(project, clip.id);
    case 'method':
      return updateClip(project, clip.id, (c) => ({ ...c, method: what.method }));
    case 'blur':
      return setClipBlur(project, clip.id, what.blur);
    case 'framing':
      return setFraming(project, clip.id, what.framing);
    case 'sound':
      return setClipSound(project, clip.id, what.sound);
    case 'speed':
      return map((m) => setClipSpeed(m, what.speed, clipSlope(project, clip)));
    case 'plain':
      return backToPlain(project, clip.id);
  }
}

export interface Outcome {
  readonly clip: Clip;
  /** The clip as it would be; none where it is refused. */
  readonly after: Clip | undefined;
  readonly refusal: string | undefined;
}

/** What would come of it for each clip, and the project with it put on all that take it. */
export function putOnMany(
  project: Project,
  ids: readonly string[],
  from: Clip,
  what: ForMany,
): { project: Project; outcomes: Outcome[] } {
  let changed = project;
  const outcomes = ids.flatMap((id): Outcome[] => {
    const clip = project.reel.items.find((item) => item.id === id);
    if (clip?.kind !== 'clip') return [];
    try {
      changed = putOnClip(changed, clip, from, what);
      const after = changed.reel.items.find((item) => item.id === id) as Clip;
      return [{ clip, after, refusal: undefined }];
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      return [{ clip, after: undefined, refusal: error.problem }];
    }
  });
  return { project: changed, outcomes };
}
