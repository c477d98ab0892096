import { describe, expect, test } from '@jest/globals';
import { putAccents, putTransition } from '../accent/edit-accents.js';
import { addCue, addMoment, addSource, appendClip, tie } from '../edit/edit.js';
import { LOOKS } from '../look/looks.js';
import { emptyProject, type Project } from '../model/project.js';
import { rate } from '../time/rate.js';
import { coveredLandings } from './covered.js';

/** Two clips of 100 frames; the second shows source frame 200 at frame 100, and what lands there is frame `n` of it. */
function landedAt(n: number): Project {
  const facts = { frames: 600, nativeRate: rate(24), readAs: rate(24), moments: [], droppedRepeats: null };
  const plain = addSource(emptyProject(rate(24)), { id: 's', name: 'bell', ...facts });
  const two = appendClip(appendClip(plain, 'one', 's', 20, 119), 'two', 's', 200, 299);
  const marked = addMoment(two, 's', { id: 'm', frame: 200 + n, name: 'bell' });
  return tie(addCue(marked, { id: 'q', frame: 100 + n, name: 'beat' }), 'two', 'm', 'q');
}
const covered = (project: Project) => coveredLandings(project).map(({ clipId, shownAt }) => [clipId, shownAt]);

describe('a landing under a transition', () => {
  test('is told where less than half of it is seen', () => {
    const early = putTransition(landedAt(2), ['two'], 'dissolve', 'd');
    // Of twelve frames six are after the cut, from half on.
    expect(covered(early)).toEqual([]);
    const [set] = early.reel.accents;
    const late = putAccents(early, { ...set!, look: { ...LOOKS.dissolve.initial, before: 0 } });
    expect(covered(late)).toEqual([['two', 102]]);
    const after = putAccents(putTransition(landedAt(9), ['two'], 'dissolve', 'd'), late.reel.accents[0]!);
    expect(covered(after)).toEqual([]);
  });

  test('a dip over it counts, a flash on it does not', () => {
    expect(covered(putTransition(landedAt(1), ['two'], 'dip', 'd'))).toEqual([['two', 101]]);
    expect(covered(putTransition(landedAt(7), ['two'], 'dip', 'd'))).toEqual([]);
    const flash = { id: 'f', name: 'flash', look: LOOKS.flash.initial, strength: 1 } as const;
    expect(covered(putAccents(landedAt(1), { ...flash, on: { kind: 'cues', cueIds: ['q'] } }))).toEqual([]);
    expect(covered(landedAt(1))).toEqual([]);
  });
});
