import { describe, expect, test } from '@jest/globals';
import { addCue, moveItem, removeItem, updateClip } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { parade } from '../../test/parade.ts';
import { whatChanged } from './what-changed.ts';

describe('what changed, in words', () => {
  test.each<[string, (project: Project) => Project, string]>([
    ['a clip that came', (p) => removeItem(p, 'c1'), '“whip” is gone'],
    ['a cue without a name', (p) => addCue(p, { id: 'more', frame: 50, name: '' }), 'a cue is there'],
    ['a curve', (p) => updateClip(p, 'c0', (c) => ({ ...c, locks: [0] })), '“bell” is changed'],
    ['an order', (p) => moveItem(p, 'c0', 1), 'the reel is changed'],
  ])('%s', (_, change, words) => {
    expect(whatChanged(parade(), change(parade()))).toBe(words);
  });

  test('much is not told one by one', () => {
    const more = [40, 50, 60, 70].reduce((p, frame) => addCue(p, { id: `${frame}`, frame, name: '' }), parade());
    expect(whatChanged(parade(), more)).toBe('a cue is there, a cue is there, a cue is there, 1 more');
  });
});
