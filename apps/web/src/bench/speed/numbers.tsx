import { parseSpeed, percentText } from '@idle-bend/core/time';
import { reachSlope, setReachSpeed } from '@idle-bend/core/time-map';
import { Fragment } from 'react';
import { TypedField } from '../../ui/typed-field.tsx';
import { select, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { applyMap } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';
import { BendWidth, SitsAt } from './bend-fields.tsx';

/** All speeds of a clip, where they change and over how many frames: typed one after another, without choosing each first. */
export function Numbers({ bench }: { bench: BenchClip }) {
  const { map } = bench.clip;
  const keep = useBench((s) => s.keep);
  const reaches = map.vertices.slice(1);
  if (reaches.length < 2) return null;
  return (
    <div
      role="group"
      aria-label="Speeds and bends"
      className="grid grid-cols-[auto_1fr_1fr_1fr] items-center gap-x-2 gap-y-1"
    >
      <span className="label mb-0">Reach</span>
      <span className="label mb-0">Speed</span>
      <span className="label mb-0">Changes at frame</span>
      <span className="label mb-0">Over frames</span>
      {reaches.map(({ t }, i) => {
        const speed = reachSlope(map, i) / bench.slope;
        const bend = i + 1;
        const isLast = bend === reaches.length;
        const measure = speedMeasure(bench, t - map.vertices[i]!.t, speed);
        return (
          <Fragment key={i}>
            <button
              className="button min-w-8 justify-center px-1.5 font-mono"
              aria-label={`Choose reach ${bend}`}
              onClick={() => select({ kind: 'reach', index: i })}
            >
              {bend}
            </button>
            <TypedField
              isBare
              label={`Speed of reach ${bend}`}
              text={percentText(speed)}
              commit={(typed) => applyMap((m) => setReachSpeed(m, i, parseSpeed(typed, measure), bench.slope, keep))}
            />
            {isLast ? (
              <span className="text-faint col-span-2 text-sm">to the end</span>
            ) : (
              <>
                <SitsAt isBare bench={bench} index={bend} label={`Bend ${bend} sits at`} />
                <BendWidth isBare bench={bench} index={bend} label={`Width of bend ${bend}`} />
              </>
            )}
          </Fragment>
        );
      })}
    </div>
  );
}
