import { describe, expect, test } from '@jest/globals';
import { accentTimes } from '../accent/accent-times.js';
import { putAccents, putTransition } from '../accent/edit-accents.js';
import { addSource, appendClip } from '../edit/edit.js';
import { LOOKS } from '../look/looks.js';
import { emptyProject, type Project } from '../model/project.js';
import { rate } from '../time/rate.js';
import { formatOtio } from './otio.js';
import { parseOtio } from './otio-read.js';
import { lossesOf } from './pieces.js';

const facts = { frames: 600, nativeRate: rate(24), readAs: rate(24), moments: [], droppedRepeats: null };
const source = { id: 's', name: 'bell', ...facts };
const three = [100, 220, 340].reduce(
  (project, first, i) => appendClip(project, `c${i}`, 's', first, first + 99),
  addSource(emptyProject(rate(24)), source),
);
const spans = (project: Project) => accentTimes(project).map(({ frame, lead, frames }) => [frame, lead, frames]);
/** As another tool would see it: without what only we read. */
const bare = (project: Project) => {
  const file = JSON.parse(JSON.stringify(formatOtio(project, 'parade', () => 'bell.mp4')));
  file.metadata = {};
  return file;
};
const read = (file: unknown) => parseOtio(file, [{ id: 's', name: 'bell', frames: 600, nativeRate: rate(24) }]);

describe('dissolves in an OpenTimelineIO file', () => {
  const dissolved = putTransition(three, ['c1', 'c2'], 'dissolve', 'd');
  const [set] = dissolved.reel.accents;
  const early = putAccents(dissolved, { ...set!, look: { ...LOOKS.dissolve.initial, frames: 20, before: 0.25 } });

  test('stand between their clips as the standard has them', () => {
    const { children } = bare(early).tracks.children[0];
    expect(children.map((child: { OTIO_SCHEMA: string }) => child.OTIO_SCHEMA)).toEqual([
      ...['Clip.1', 'Transition.1', 'Clip.1', 'Transition.1', 'Clip.1'],
    ]);
    expect(children[1]).toMatchObject({
      transition_type: 'SMPTE_Dissolve',
      in_offset: { value: 5, rate: 24 },
      out_offset: { value: 15, rate: 24 },
    });
  });

  test('are read again, as long and where they were, and lost with nothing said of them', () => {
    const { project, losses } = read(bare(early));
    expect(spans(project)).toEqual(spans(early));
    expect(project.reel.accents).toHaveLength(1);
    expect(losses).toEqual([]);
  });

  test('of another kind, or with no length, are left out and told', () => {
    const file = bare(early);
    const { children } = file.tracks.children[0];
    Object.assign(children[1], { transition_type: 'Custom_Transition', name: 'star' });
    Object.assign(children[3], { in_offset: null, out_offset: null });
    const { project, losses } = read(file);
    expect(project.reel.accents).toEqual([]);
    expect(losses).toEqual(['The transition "star" is left out.', 'The transition "dissolve" is left out.']);
    children[3].in_offset = { value: 3, rate: 'fast' };
    expect(() => read(file)).toThrow(/in_offset/);
  });

  test('what a format cannot carry is said before', () => {
    const all = { marks: true, sounds: true, method: true };
    const said = (project: Project, dissolves: boolean) =>
      lossesOf(project, { ...all, dissolves }).filter((loss) => /ransition/.test(loss));
    expect(said(early, true)).toEqual([]);
    expect(said(early, false)).toEqual(['Transitions are left out: every cut is hard.']);
    const turned = putTransition(early, ['c2'], 'turn', 't');
    expect(said(turned, true)).toEqual(['Transitions other than dissolves are left out.']);
  });
});
