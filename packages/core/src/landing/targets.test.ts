import { describe, expect, test } from '@jest/globals';
import { addCue, addMoment, addSource, appendClip, tie } from '../edit/edit.js';
import { addSound } from '../edit/sounds.js';
import { emptyProject, type Project } from '../model/project.js';
import { rate } from '../time/rate.js';
import { conflictSentence } from './conflict-sentence.js';
import { landClip } from './land-clip.js';
import { pinToNearest, proposeLanding, targetsIn, withCueAt } from './targets.js';

const source = (id: string) => ({
  ...{ id, name: id, frames: 360, nativeRate: rate(120), readAs: rate(120), moments: [], droppedRepeats: null },
});

/** Two clips of 72 frames at 24 fps; a moment of the first at its frame 40, another at frame 10. */
const parade = () => {
  const clips = ['a', 'b'].reduce(
    (project, id) => appendClip(addSource(project, source(`of ${id}`)), id, `of ${id}`),
    emptyProject(rate(24)),
  );
  const late = addMoment(clips, 'of a', { id: 'late', frame: 200, name: 'rings' });
  return addMoment(late, 'of a', { id: 'early', frame: 50, name: '' });
};
const cued = (...frames: number[]) =>
  frames.reduce<Project>((project, frame) => addCue(project, { id: `at ${frame}`, frame, name: '' }), parade());

/** Beats every half second, the first at once. */
const withBeats = (project: Project) =>
  addSound(project, {
    ...{
      id: 's',
      footageId: 'f',
      name: 's',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: 60,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
    },
    beats: { times: Array.from({ length: 120 }, (_, i) => i / 2), bar: { beats: 4, first: 0 } },
  });

describe('what a landing is proposed for', () => {
  test('the moment nearest to what is in sight, and the cue nearest to where it shows', () => {
    const project = cued(5, 38, 60, 130);
    expect(proposeLanding(project, 'a', 44)).toMatchObject({ moment: { id: 'late' }, target: { cueId: 'at 38' } });
    expect(proposeLanding(project, 'a', 2)).toMatchObject({ moment: { id: 'early' }, target: { cueId: 'at 5' } });
  });

  test('a moment or a cue that is chosen', () => {
    const project = cued(5, 60);
    expect(proposeLanding(project, 'a', 44, { momentId: 'early' })).toMatchObject({ target: { cueId: 'at 5' } });
    expect(proposeLanding(project, 'a', 44, { cueId: 'at 5' })).toMatchObject({
      moment: { id: 'late' },
      target: { frame: 5 },
    });
  });

  test('a cue outside the clip only when there is nothing inside it', () => {
    expect(proposeLanding(cued(80), 'a', 44)?.target.frame).toBe(80);
    expect(proposeLanding(cued(1, 80), 'a', 44)?.target.frame).toBe(1);
  });

  test('a cue that somebody set, before a beat that is less than half a second nearer', () => {
    // The moment shows at 40; a beat is at 36.
    expect(proposeLanding(withBeats(cued(27)), 'a', 44)?.target).toMatchObject({ cueId: 'at 27' });
    const beat = proposeLanding(withBeats(cued(20)), 'a', 44)!.target;
    expect(beat).toMatchObject({ frame: 36, soundId: 's', second: 1.5 });
    const { project, cueId } = withCueAt(withBeats(cued(20)), beat, 'new');
    expect(project.reel.cues.find(({ id }) => id === cueId)).toMatchObject({ frame: 36, beat: { second: 1.5 } });
    // That beat is the cue now.
    expect(targetsIn(project, 'a').filter(({ frame }) => frame === 36)).toEqual([{ frame: 36, cueId: 'new' }]);
  });

  test('nothing without a moment, a target or the clip', () => {
    expect(proposeLanding(cued(5), 'b', 0)).toBeUndefined();
    expect(proposeLanding(parade(), 'a', 0)).toBeUndefined();
    expect(proposeLanding(cued(5), 'gone', 0)).toBeUndefined();
    expect(targetsIn(cued(5), 'gone')).toEqual([]);
  });
});

test('targets of a clip are those whose frame it shows, in order', () => {
  expect(targetsIn(cued(143, 72, 71, 144), 'b').map(({ frame }) => frame)).toEqual([72, 143]);
});

test('a cut is kept on the nearest cue, and without any that is refused', () => {
  const project = pinToNearest(cued(20, 70, 90), 'b', 'new');
  expect(project.reel.items[1]).toMatchObject({ id: 'b', pin: 'at 70' });
  expect(() => pinToNearest(parade(), 'b', 'new')).toThrow(/lay music under the reel/);
});

test('a target that is a cue makes no new one', () => {
  const project = cued(20);
  expect(withCueAt(project, { frame: 20, cueId: 'at 20' }, 'new')).toEqual({ project, cueId: 'at 20' });
});

test('a conflict is told by the names of its moments, and without a name by the frame', () => {
  const project = tie(tie(cued(60, 20), 'a', 'late', 'at 20'), 'a', 'early', 'at 60');
  const { project: tied, conflicts } = landClip(project, 'a', { freeEnd: false });
  expect(conflicts.length).toBeGreaterThan(0);
  const sentence = conflictSentence(project, 'a', conflicts[0]!);
  expect(sentence).toMatch(/“rings”|“frame 50”/);
  expect(sentence).toMatch(/by \d+ frames?\./);
  expect(conflictSentence({ ...tied, reel: { ...tied.reel, items: [] } }, 'a', conflicts[0]!)).toMatch(
    /not on the reel/,
  );
});
