import { reelSpaceOf } from '../colour/colour-space.js';
import type { ColourSpace } from '../colour/colour-space.js';
import type { Source } from '../model/group.js';
import type { Project } from '../model/project.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import type { Rate } from '../time/rate.js';
import { addSource, appendClip, setReadAs } from './edit.js';
import { addSound } from './sounds.js';

/** Footage, as far as a project has to know it. */
interface NewFootage {
  readonly id: string;
  /** Of its file. */
  readonly name: string;
}

/** Its picture: width and height in samples as shown. */
interface NewPicture {
  readonly rate: Rate;
  readonly frames: number;
  readonly width: number;
  readonly height: number;
  readonly pixelAspect: { readonly num: number; readonly den: number };
  readonly colour?: ColourSpace;
}

const withoutEnding = (name: string) => name.replace(/\.\w+$/, '');

/** Footage as a source, under its file's name without the ending, read at its own rate. */
export const sourceFor = ({ id, name }: NewFootage, { rate, frames }: Pick<NewPicture, 'rate' | 'frames'>): Source => ({
  ...{ id, name: withoutEnding(name), frames, nativeRate: rate, readAs: rate, moments: [], droppedRepeats: null },
});

/** The project with this footage among its sources. */
export const withSource = (project: Project, footage: NewFootage, picture: NewPicture): Project =>
  project.sources.some(({ id }) => id === footage.id) ? project : addSource(project, sourceFor(footage, picture));

/** Reads footage at another rate from now on. */
export function readFootageAs(project: Project, footage: NewFootage, picture: NewPicture, readAs: Rate): Project {
  return setReadAs(withSource(project, footage, picture), footage.id, readAs);
}

interface PutChoice {
  readonly clipId: string;
  /** Its first and last frame, as the file counts; the whole of it without them. */
  readonly part?: { readonly first?: number | undefined; readonly last?: number | undefined } | undefined;
  /** What an empty reel is to be; as this picture is without it. */
  readonly colour?: ColourSpace | undefined;
}

/** Puts a clip of this footage, or of a part of it, at the end of the reel. The first one gives the reel its size and its colour space. */
export function putOnReel(
  project: Project,
  footage: NewFootage,
  picture: NewPicture,
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
export const layUnderReel = (project: Project, { id, name }: NewFootage, seconds: number, soundId: string): Project =>
  addSound(project, {
    ...{
      id: soundId,
      footageId: id,
      name: withoutEnding(name),
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: Math.max(0.1, seconds),
    },
    ...{ gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, beats: null },
  });
