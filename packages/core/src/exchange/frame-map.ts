import { showing } from '../group/shown.js';
import { methodOf, placeItems, type Project } from '../project/project.js';
import { frameOfPosition } from '../repeats/skip.js';
import { quotedCell } from '../project/cue-text.js';

/**
 * Every frame of the reel as comma-separated values (RFC 4180): the frame, the clip, the source and its file, the native source frame
 * and the fraction towards the next, and the method its in-betweens are made by. A black frame has only its number.
 * @param fileOf the file behind a source's id
 */
export function formatFrameMap(project: Project, fileOf: (sourceId: string) => string): string {
  const rows = placeItems(project).flatMap(({ item, start, frames }) => {
    const show = item.kind === 'clip' ? showing(project, item) : () => undefined;
    return Array.from({ length: frames }, (_, k) => {
      const shown = show(k);
      if (!shown || item.kind !== 'clip') return `${start + k},,,,,,`;
      const position = frameOfPosition(shown.source, shown.position);
      const whole = Math.floor(position + 1e-6);
      const fraction = Math.max(0, position - whole);
      const cells = [item.name, shown.source.name, fileOf(shown.source.id)].map(quotedCell);
      return [start + k, ...cells, whole, Number(fraction.toFixed(9)), methodOf(project, shown.clip)].join(',');
    });
  });
  return ['frame,clip,source,file,source frame,fraction,method', ...rows].join('\r\n') + '\r\n';
}
