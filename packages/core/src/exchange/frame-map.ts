import type { Project } from '../model/project.js';
import { nowOf, type SimpleSample } from '../sampling/sample.js';
import { quotedCell } from './cue-text.js';
import { shownFrames } from './shown-frames.js';

/**
 * Every frame of the reel as comma-separated values (RFC 4180), as it is rendered: the frame, the clip in sight, its source and file, the
 * native source frame that shows, and where the picture is made, the frame it is made towards, how far, and by which method. Of a mend that
 * comes softly both are told. A frame that stands still (an accent, an end that is held) says what it stands on; a black one only its number.
 * @param fileOf the file behind a source's id
 */
export function formatFrameMap(project: Project, fileOf: (sourceId: string) => string): string {
  const rows = shownFrames(project).map((frame, k) => {
    if (!frame) return `${k},,,,,,,`;
    const { clip, source, sample } = frame.shown;
    const cells = [clip.name, source.name, fileOf(source.id)].map(quotedCell);
    const now = nowOf(sample);
    const { own, method } =
      now.kind === 'fade'
        ? { own: now.from, method: `${methodOf(now.from)} to ${methodOf(now.to)} at ${fine(now.share)}` }
        : { own: now, method: methodOf(now) };
    return [k, ...cells, ...madeFrom(own), method].join(',');
  });
  return ['frame,clip,source,file,source frame,towards,fraction,method', ...rows].join('\r\n') + '\r\n';
}

const fine = (value: number) => Number(value.toFixed(9));

/** A real frame says itself, whatever its clip would have made of another. */
const methodOf = (sample: SimpleSample): string => (sample.kind === 'source' ? 'step' : sample.kind);

function madeFrom(sample: SimpleSample): (number | string)[] {
  if (sample.kind === 'black') return ['', '', ''];
  if (sample.kind === 'source') return [sample.frame, '', 0];
  return [sample.a, sample.b, fine(sample.fraction)];
}
