import { describe, expect, test } from '@jest/globals';
import { addSource, appendClip, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { insertGap } from '../edit/reel-edit.js';
import { InvalidInput } from '../foundation/errors.js';
import { emptyProject, type Project } from '../model/project.js';
import { rate } from '../time/rate.js';
import { reverseMap } from '../time-map/edit.js';
import { shownFrames } from './shown-frames.js';
import { readTimeline, TIMELINE_FORMAT_NAMES, TIMELINE_FORMATS, writeTimeline } from './timeline-formats.js';

const source = (id: string, frames: number, fps: number) => ({
  ...{ id, name: id, frames, nativeRate: rate(fps), readAs: rate(fps), moments: [], droppedRepeats: null },
});
const [bell, boat] = [source('bell', 600, 120), source('boat', 240, 24)];
const urlOf = (id: string) => id;

/** The bell, a gap, the boat backward. */
function parade(): Project {
  const sources = [bell, boat].reduce(addSource, emptyProject(rate(24)));
  const clips = appendClip(appendClip(sources, 'a', 'bell', 120, 239), 'b', 'boat', 0, 47);
  return insertGap(
    updateClip(clips, 'b', (clip) => withMap(clip, reverseMap(clip.map))),
    1,
    'gap',
    24,
  );
}

describe('formats of a hand-over', () => {
  const context = { name: 'Marble Parade', nameOf: urlOf, startOf: () => null, drop: false };
  const footage = [bell, boat].map(({ id, name, frames, nativeRate }) => ({ id, name, frames, nativeRate }));

  test('each writes the reel; those that are read show it again, by their ending and by what they look like', () => {
    const before = shownFrames(parade()).map((frame) => frame?.shown.source.id);
    let read = 0;
    for (const format of TIMELINE_FORMAT_NAMES) {
      const { endings } = TIMELINE_FORMATS[format];
      const names = { ...context, nameOf: (id: string) => [bell, boat].find((s) => s.id === id)!.name };
      const { files } = writeTimeline(format, parade(), names);
      expect(files).toHaveLength(1);
      if (!('read' in TIMELINE_FORMATS[format])) continue;
      for (const name of [`reel.${endings[0]}`, 'no ending']) {
        const { project } = readTimeline(name, files[0]!, rate(24), footage);
        expect(shownFrames(project).map((frame) => frame?.shown.source.id)).toEqual(before);
        read++;
      }
    }
    expect(read).toBe(4);
  });

  test('what is not what its name says is refused', () => {
    expect(() => readTimeline('reel.otio', 'TITLE: no', rate(24), [])).toThrow(/is not JSON/);
    expect(() => readTimeline('reel.edl', '{}', rate(24), [])).toThrow(InvalidInput);
  });
});
