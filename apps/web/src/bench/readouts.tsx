import type { FootageFacts } from '@idle-bend/core/api';
import { isGroup } from '@idle-bend/core/model';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { formatTimecode, framesPerSecond, parseTimecode, speakRate, percentText } from '@idle-bend/core/time';
import { positionAt, speedAt } from '@idle-bend/core/time-map';
import { useState, type ReactNode } from 'react';
import { inUnits, nextUnits, useUnits } from './units.ts';
import { type BenchClip } from '../session/bench-state.ts';
import { useBench } from '../ui/use-session.ts';
import { drawnBy } from '../ui/drawn-by.ts';
import { valuesOf } from '../session/bench-clip.ts';

/** Where the playhead is, which source frame shows, how fast, and how many source frames a second that is. */
function ReadoutsPart({ bench, facts }: { bench: BenchClip; facts: FootageFacts | undefined }) {
  const { clip, frames, slope, start, source, project } = bench;
  const k = Math.min(
    useBench((s) => s.k),
    frames - 1,
  );
  const gapAt = useBench((s) => s.gapAt);
  const units = useUnits((s) => s.units);
  const speed = speedAt(clip.map, k, slope);
  const perSecond = Math.round(Math.abs(speed) * framesPerSecond(source.readAs) * 100) / 100;
  return (
    <dl className="border-line grid grid-cols-[1.15fr_1.1fr_0.8fr_1.2fr] gap-3 border-b px-3.5 py-2 [@media(max-height:640px)]:hidden">
      <Readout label="Reel">
        <button className="hover:text-river min-h-6" data-tip="Timecode, frames or seconds (U)" onClick={nextUnits}>
          {inUnits(gapAt ?? start + k, project.reel.rate, units)}
        </button>
      </Readout>
      <SourceReadout
        position={frameOfPosition(source, positionAt(clip.map, k))}
        facts={facts}
        label={isGroup(source) ? 'Frame inside' : 'Source frame'}
      />
      <Readout label="Speed">{percentText(speed)}</Readout>
      <Readout label="Shows, fps">
        {perSecond} of {speakRate(source.readAs)}
      </Readout>
    </dl>
  );
}

function Readout({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div>
      <dt className="label">{label}</dt>
      <dd className="font-mono text-[15px] whitespace-nowrap">{children}</dd>
    </div>
  );
}

/** The source frame as a number; where the file carries a timecode, a press shows that instead. */
function SourceReadout({
  position,
  facts,
  label,
}: {
  position: number;
  facts: FootageFacts | undefined;
  label: string;
}) {
  const [asTimecode, setAsTimecode] = useState(false);
  const timecode = facts && sourceTimecode(position, facts);
  if (!timecode) return <Readout label={label}>{position.toFixed(2)}</Readout>;
  return (
    <Readout label={asTimecode ? 'Source timecode' : 'Source frame'}>
      <button
        className="hover:text-river"
        data-tip={asTimecode ? 'Show the frame number' : 'Show the source’s own timecode'}
        onClick={() => setAsTimecode(!asTimecode)}
      >
        {asTimecode ? timecode : position.toFixed(2)}
      </button>
    </Readout>
  );
}

/** The file's own timecode at a source position; undefined where the file has no timecode that can be read. */
function sourceTimecode(position: number, { startTimecode, picture }: FootageFacts): string | undefined {
  if (!startTimecode || !picture) return undefined;
  try {
    return formatTimecode(
      parseTimecode(startTimecode, picture.rate) + Math.floor(position + 1e-6),
      picture.rate,
      picture.dropFrame,
    );
  } catch {
    return undefined;
  }
}

export const Readouts = drawnBy('readouts', ({ bench, facts }) => [...valuesOf(bench), facts], ReadoutsPart);
