import type { Loudness } from '@idle-bend/core/api';
import { collect, lastComplaint, safeInput } from '../ffmpeg/ffmpeg.js';

/** How loud a file's sound is by EBU R 128 (ffmpeg's ebur128); undefined where nothing is heard in it. */
export async function measureLoudness(file: string, signal?: AbortSignal): Promise<Loudness | undefined> {
  const explain = (complaint: string) => `The loudness could not be measured: ${lastComplaint(complaint)}.`;
  const args = [
    '-hide_banner',
    '-nostats',
    '-nostdin',
    ...safeInput(file),
    '-map',
    '0:a:0',
    '-af',
    'ebur128=peak=true:framelog=verbose',
    '-f',
    'null',
    '-',
  ];
  const { stderr } = await collect('ffmpeg', args, { seconds: 3600, explain, ...(signal && { signal }) });
  const summary = stderr.slice(stderr.lastIndexOf('Summary:'));
  const value = (name: string) => Number(new RegExp(`${name}:\\s+(-?[\\d.]+)`).exec(summary)?.[1] ?? NaN);
  const [integrated, range, peak] = [value('I'), value('LRA'), value('Peak')];
  // At the gate of −70 LUFS nothing is heard.
  if (!(integrated > -70) || !Number.isFinite(peak)) return undefined;
  return { integrated, range, peak };
}
