import { formatTimecode, framesPerSecond, positionAt, speakRate, speedAt } from '@idle-bend/core';
import { useBench, type BenchClip } from './bench-store.ts';
import { percentText } from './speed-text.ts';

/** Where the playhead is, which source frame shows, how fast, and how many source frames a second that is. */
export function Readouts({ bench }: { bench: BenchClip }) {
  const { clip, frames, slope, start, source, project } = bench;
  const k = Math.min(
    useBench((s) => s.k),
    frames - 1,
  );
  const speed = speedAt(clip.map, k, slope);
  const perSecond = Math.round(Math.abs(speed) * framesPerSecond(source.readAs) * 10) / 10;
  const rows = [
    ['Reel', formatTimecode(start + k, project.reel.rate)],
    ['Source frame', positionAt(clip.map, k).toFixed(2)],
    ['Speed', percentText(speed)],
    ['Shows', `${perSecond} of ${speakRate(source.readAs)}/s`],
  ] as const;
  return (
    <dl className="border-line grid grid-cols-[1.15fr_1fr_0.8fr_1.2fr] gap-3 border-b px-3.5 py-2">
      {rows.map(([label, value]) => (
        <div key={label}>
          <dt className="label">{label}</dt>
          <dd className="font-mono text-[15px] whitespace-nowrap">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
