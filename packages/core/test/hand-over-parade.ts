import { addCue, addSource, appendClip, updateClip } from '../src/edit/edit.js';
import { insertGap } from '../src/edit/reel-edit.js';
import type { Source } from '../src/model/group.js';
import { emptyProject, type Project } from '../src/model/project.js';
import { withMap } from '../src/reel/with-map.js';
import { reverseMap, setClipSpeed } from '../src/time-map/edit.js';
import { freezeAt } from '../src/time-map/freeze.js';
import { rate } from '../src/time/rate.js';

export const bell: Source = {
  id: 'bell',
  name: 'marble-bell',
  frames: 600,
  nativeRate: rate(120),
  readAs: rate(120),
  moments: [],
  droppedRepeats: null,
};

export const boat: Source = {
  ...bell,
  id: 'boat',
  name: 'paper, boat',
  frames: 240,
  nativeRate: rate(24),
  readAs: rate(24),
};

/** The bell at 50 %, a gap of a second, the boat backward with a freeze. */
export function parade(): Project {
  let project = [bell, boat].reduce(addSource, emptyProject(rate(24)));
  project = appendClip(appendClip(project, 'a', 'bell', 120, 239), 'b', 'boat', 0, 47);
  project = updateClip(project, 'a', (clip) => withMap(clip, setClipSpeed(clip.map, 0.5, 5)));
  project = updateClip(project, 'b', (clip) =>
    withMap(clip, freezeAt(reverseMap(clip.map), 12, 6, { widthFrames: 0, ease: 'soft' }).map),
  );
  return addCue(insertGap(project, 1, 'gap', 24), { id: 'q', frame: 30, name: 'bell' });
}

export const urlOf = (id: string) => `file:///footage/${id}.mp4`;
