import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { emptyProject, type Project } from '../model/project.js';
import { setReachSpeed } from '../time-map/edit.js';
import { rate } from '../time/rate.js';
import { withMap } from '../reel/with-map.js';
import {
  addCue,
  addMoment,
  addSource,
  appendClip,
  lockReach,
  moveItem,
  removeCue,
  removeItem,
  renameSource,
  updateClip,
  updateCue,
} from './edit.js';
import { takeBack } from './take-back.js';

const source = (id: string) => ({
  ...{ id, name: id, frames: 240, moments: [], droppedRepeats: null },
  ...{ nativeRate: rate(60), readAs: rate(60) },
});

/** Four clips of four films, and four cues. */
function parade(): Project {
  let project = ['bell', 'boat', 'rail', 'wheel'].map(source).reduce(addSource, emptyProject(rate(24)));
  for (const { id } of project.sources) project = appendClip(project, `clip-${id}`, id);
  for (const frame of [10, 40, 70, 90]) project = addCue(project, { id: `cue-${frame}`, frame, name: `${frame}` });
  return project;
}

type Edit = (project: Project) => Project;

const CLIPS = ['clip-bell', 'clip-boat', 'clip-rail', 'clip-wheel'];
const CUES = ['cue-10', 'cue-40', 'cue-70', 'cue-90'];

/** Edits of one thing each; those of new things have ids nobody else uses, and no two windows give one thing the same value. */
const editsOf = (own: boolean) =>
  fc
    .record({
      kind: fc.constantFrom('name clip', 'bend', 'cue', 'new cue', 'no cue', 'no clip', 'film', 'moment', 'new clip'),
      pick: fc.nat({ max: 3 }),
      value: fc.nat({ max: 49 }).map((n) => 2 * n + (own ? 1 : 2)),
      id: fc.uuid(),
    })
    .map(({ kind, pick, value, id }): { kind: string; edit: Edit } => {
      const [clip, cue, film] = [CLIPS[pick]!, CUES[pick]!, ['bell', 'boat', 'rail', 'wheel'][pick]!];
      const edits: Record<string, Edit> = {
        'name clip': (p) => updateClip(p, clip, (c) => ({ ...c, name: `take ${value}` })),
        bend: (p) => updateClip(p, clip, (c) => withMap(c, setReachSpeed(c.map, 0, value / 50, 2.5, 'slot'))),
        cue: (p) => updateCue(p, cue, { name: `hit ${value}` }),
        'new cue': (p) => addCue(p, { id, frame: 100 + value, name: '' }),
        'no cue': (p) => removeCue(p, cue),
        'no clip': (p) => removeItem(p, clip),
        film: (p) => renameSource(p, film, `film ${value}`),
        moment: (p) => addMoment(p, film, { id, frame: value, name: '' }),
        'new clip': (p) => appendClip(p, id, film),
      };
      return { kind, edit: edits[kind]! };
    });

/** The same whatever order things without an order of their own are in. */
const sorted = ({ sources, reel }: Project) => ({
  sources: sources.map((each) => ({ ...each, moments: each.moments.toSorted((a, b) => a.id.localeCompare(b.id)) })),
  items: reel.items,
  cues: reel.cues.toSorted((a, b) => a.id.localeCompare(b.id)),
});

const attempt = (project: Project, edit: Edit): Project => {
  try {
    return edit(project);
  } catch {
    return project;
  }
};

describe('taking an edit back', () => {
  test('of any interleaving of two windows, undoing all of one leaves exactly the other’s, or says what both touched', () => {
    let [whole, refused] = [0, 0];
    fc.assert(
      fc.property(
        fc.array(
          fc.boolean().chain((own) => editsOf(own).map((what) => ({ own, what }))),
          { minLength: 2, maxLength: 8 },
        ),
        (steps) => {
          const start = parade();
          let [now, theirs] = [start, start];
          const own: { before: Project; after: Project }[] = [];
          for (const { own: isOwn, what } of steps) {
            const after = attempt(now, what.edit);
            if (isOwn && after !== now) own.push({ before: now, after });
            if (!isOwn) theirs = attempt(theirs, what.edit);
            now = after;
          }
          try {
            for (const { before, after } of own.toReversed()) now = takeBack(before, after, now);
          } catch (error) {
            refused++;
            expect(String((error as { problem: string }).problem)).toMatch(/another window since/);
            return;
          }
          // An edit of theirs that needed one of ours (the clip was gone) was none without it.
          if (steps.some(({ own: isOwn, what }) => isOwn && what.kind.startsWith('no '))) return;
          whole++;
          expect(sorted(now)).toEqual(sorted(theirs));
        },
      ),
      { numRuns: 400 },
    );
    expect(whole).toBeGreaterThan(150);
    expect(refused).toBeGreaterThan(5);
  });

  test('with nobody else it is the very project before; and done again, the one after', () => {
    const before = parade();
    const after = removeItem(before, 'clip-boat');
    expect(takeBack(before, after, after)).toBe(before);
    expect(takeBack(after, before, before)).toBe(after);
  });

  test('what was taken away is back in its place, what was brought is gone, and what was moved is where it was', () => {
    const before = parade();
    const theirs: Edit = (p) => updateClip(p, 'clip-wheel', (c) => ({ ...c, name: 'theirs' }));
    for (const edit of [
      (p: Project) => removeItem(p, 'clip-boat'),
      (p: Project) => appendClip(p, 'clip-new', 'boat'),
      (p: Project) => moveItem(p, 'clip-bell', 2),
      (p: Project) => removeCue(p, 'cue-10'),
    ])
      expect(takeBack(before, edit(before), theirs(edit(before)))).toEqual(theirs(before));
  });

  test.each<[string, Edit, Edit, string]>([
    [
      'the same clip',
      (p) => updateClip(p, 'clip-bell', (c) => ({ ...c, name: 'a' })),
      (p) => updateClip(p, 'clip-bell', (c) => ({ ...c, name: 'b' })),
      '“b”',
    ],
    ['the order', (p) => moveItem(p, 'clip-bell', 3), (p) => moveItem(p, 'clip-boat', 2), 'the reel'],
    [
      'a clip that was brought',
      (p) => appendClip(p, 'clip-new', 'boat'),
      (p) => lockReach(p, 'clip-new', 0, true),
      '“boat 2”',
    ],
    [
      'footage that was brought',
      (p) => addSource(p, source('new')),
      (p) => appendClip(p, 'clip-new', 'new'),
      'what was done in another window',
    ],
  ])('%s changed by both is left, and named', (_, ours, theirs, named) => {
    const before = parade();
    const after = ours(before);
    expect(() => takeBack(before, after, theirs(after))).toThrow(named);
  });
});
