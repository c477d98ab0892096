import { addCue, addMoment, addSource, appendClip } from '@idle-bend/core/edit';
import { emptyProject, type Project } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';

const source = (id: string, frames: number) => ({
  ...{ id, name: id, frames, moments: [], droppedRepeats: null },
  ...{ nativeRate: rate(120), readAs: rate(120) },
});

/** A reel at 24 fps with two clips of footage at 120 fps, of 72 and 48 frames; the first has a moment, and there is a cue on it. */
export function parade(): Project {
  const sources = [source('bell', 360), source('whip', 240)].reduce(addSource, emptyProject(rate(24)));
  const clips = appendClip(appendClip(sources, 'c0', 'bell'), 'c1', 'whip');
  const marked = addMoment(clips, 'bell', { id: 'hit', frame: 200, name: 'rings' });
  return addCue(marked, { id: 'beat', frame: 30, name: 'beat' });
}
