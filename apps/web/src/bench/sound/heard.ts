import type { Footage } from '@idle-bend/core/api';
import type { Clip, Project } from '@idle-bend/core/model';
import { allClips } from '@idle-bend/core/reel';
import { soundUrl } from '../../api.ts';
import type { PlayedClips, PlayedSound } from './player.ts';

const isHeard = (clip: Clip) => clip.sound.mode !== 'mute' || clip.sound.reaches.some(({ mode }) => mode !== 'mute');

/** The ids of the sources whose sound is heard, inside groups too, in one string: equal when they are the same. */
export const heardSources = (project: Project): string =>
  [...new Set(allClips(project).flatMap((clip) => (isHeard(clip) ? [clip.sourceId] : [])))].sort().join(' ');

/** What of the clips is to be heard, as far as its sound is ready. */
export function playedClips(project: Project, footage: readonly Footage[]): PlayedClips {
  const ids = heardSources(project).split(' ');
  const sources = footage.flatMap(({ id, sound, revision }) =>
    sound === 'ready' && ids.includes(id) ? [{ id, url: soundUrl(id, revision) }] : [],
  );
  return { sources, project, whooshes: project.reel.joins.some(({ whoosh }) => whoosh) };
}

/** The sounds of the reel that are ready. */
export function playedSounds({ reel }: Project, footage: readonly Footage[]): PlayedSound[] {
  return reel.sounds.flatMap((sound) => {
    const media = footage.find(({ id }) => id === sound.footageId);
    return media?.sound === 'ready' ? [{ sound, url: soundUrl(media.id, media.revision) }] : [];
  });
}
