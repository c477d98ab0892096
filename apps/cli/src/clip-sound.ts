import { emptyProject, type EndChoice, type Project, type SoundMode, type Source } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import type { Rate } from '@idle-bend/core/time';
import type { TimeMap } from '@idle-bend/core/time-map';
import { mixSounds, type OpenedSource, type OutputKind } from '@idle-bend/media';

const ID = 'clip';

/** Lays a retimed clip's own sound under its rendered picture, along the same curve. */
export async function laySound(
  source: OpenedSource,
  map: TimeMap,
  rate: Rate,
  mode: SoundMode,
  end: EndChoice | undefined,
  out: string,
  kind: OutputKind,
): Promise<void> {
  const { grid } = source.index;
  const { name } = source.facts;
  const film: Source = {
    id: ID,
    name,
    frames: grid.frames,
    nativeRate: grid.rate,
    readAs: grid.rate,
    moments: [],
    droppedRepeats: null,
  };
  const plain = plainClip(ID, film, rate);
  const clip = { ...plain, map, end: end ?? plain.end, sound: { ...plain.sound, mode } };
  const empty = emptyProject(rate);
  const project: Project = { ...empty, sources: [film], reel: { ...empty.reel, items: [clip] } };
  await mixSounds(project, { [ID]: { file: source.file, name } }, out, kind);
}
