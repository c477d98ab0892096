import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { reelSpaceOf, type ColourSpace } from '@idle-bend/core/colour';
import { addSound, addSource, appendClip, setReadAs } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { positionOfFrame } from '@idle-bend/core/sampling';
import type { Rate } from '@idle-bend/core/time';
import type { InOutPoints } from './in-out-points.ts';

/** The project with this footage among its sources, under its name without the ending. */
export function withSource(project: Project, { id, name }: Footage, { rate, frames }: PictureFacts): Project {
  if (project.sources.some((s) => s.id === id)) return project;
  return addSource(project, {
    id,
    name: name.replace(/\.\w+$/, ''),
    frames,
    nativeRate: rate,
    readAs: rate,
    moments: [],
    skips: null,
  });
}

/** Reads footage at another rate from now on. */
export function readFootageAs(project: Project, footage: Footage, picture: PictureFacts, readAs: Rate): Project {
  return setReadAs(withSource(project, footage, picture), footage.id, readAs);
}

export interface PutChoice {
  readonly clipId: string;
  readonly part?: InOutPoints | undefined;
  /** What an empty reel is to be; as this picture is without it. */
  readonly colour?: ColourSpace | undefined;
}

/** Puts a clip of this footage, or of a part of it, at the end of the reel. The first one gives the reel its size and its colour space. */
export function putOnReel(
  project: Project,
  footage: Footage,
  picture: PictureFacts,
  { clipId, part = {}, colour }: PutChoice,
): Project {
  const known = withSource(project, footage, picture);
  const first = known.reel.items.length === 0;
  const { width, height, pixelAspect } = picture;
  const own = colour ?? (picture.colour && reelSpaceOf(picture.colour)) ?? null;
  const shape = first && {
    width: even((width * pixelAspect.num) / pixelAspect.den),
    height: even(height),
    colour: known.reel.colour ?? own,
  };
  const source = known.sources.find((s) => s.id === footage.id)!;
  const at = (frame: number | undefined) => (frame === undefined ? undefined : positionOfFrame(source, frame));
  return appendClip({ ...known, reel: { ...known.reel, ...shape } }, clipId, footage.id, at(part.first), at(part.last));
}

const even = (n: number) => Math.max(2, Math.round(n / 2) * 2);

/** Lays the sound of footage under the reel, from its beginning on. Its beats come when it has been listened to. */
export function layUnderReel(project: Project, footage: Footage, id: string): Project {
  const seconds = Math.max(0.1, footage.facts.durationSeconds ?? 60);
  const name = footage.name.replace(/\.\w+$/, '');
  return addSound(project, {
    id,
    footageId: footage.id,
    name,
    start: 0,
    from: 0,
    to: seconds,
    gain: 0,
    fadeIn: 0,
    fadeOut: 0,
    beats: null,
  });
}
