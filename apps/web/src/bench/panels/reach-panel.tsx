import { cadenceOfSpeed, describeCadence, nearestEvenSpeed, reachSlope, setReachSpeed, parseSpeed, percentText } from '@idle-bend/core';
import { speedMeasure, useBench, type BenchClip } from '../bench-store.ts';
import { applyMap, changeMap } from '../edits.ts';
import { Choice } from './choice.tsx';
import { KEEPS } from './keeps.ts';
import { TypedField } from './typed-field.tsx';
import { Note, Panel } from './panel.tsx';

export function ReachPanel({ bench, index }: { bench: BenchClip; index: number }) {
  const { clip, slope, source, project } = bench;
  const keep = useBench((s) => s.keep);
  const [a, b] = [clip.map.vertices[index]!, clip.map.vertices[index + 1]!];
  const speed = reachSlope(clip.map, index) / slope;
  const set = (wish: number) => applyMap((map) => setReachSpeed(map, index, wish, slope, keep));
  const measure = speedMeasure(bench, b.t - a.t, speed);
  const frames = Math.round((b.t - a.t) * 100) / 100;
  const cadence = cadenceOfSpeed(speed, source.readAs, project.reel.rate);
  const even = nearestEvenSpeed(speed, source.readAs, project.reel.rate, 0.5);
  return (
    <Panel title={`Reach ${index + 1}`} about={`${frames} frames · source ${Math.round(a.s * 100) / 100} to ${Math.round(b.s * 100) / 100}`}>
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Speed"
          text={percentText(speed)}
          commit={(typed) => set(parseSpeed(typed, measure))}
          step={(by) => set((Math.round(speed * 100) + by) / 100)}
        />
        <Choice label="A new speed keeps" value={keep} options={KEEPS} choose={(next) => useBench.setState({ keep: next })} />
      </div>
      <div className="flex gap-2">
        <button className="button" disabled={speed === 0} onClick={() => changeMap((map) => setReachSpeed(map, index, 0, slope, keep))}>
          Freeze
        </button>
        <button className="button" disabled={speed === 0} onClick={() => changeMap((map) => setReachSpeed(map, index, -speed, slope, keep))}>
          Turn round
        </button>
        {even !== undefined && Math.abs(even - speed) > 1e-9 && (
          <button className="button" onClick={() => changeMap((map) => setReachSpeed(map, index, even, slope, keep))}>
            Even at {percentText(even)}
          </button>
        )}
      </div>
      <Note>
        {speed === 0
          ? 'Still: one source frame throughout.'
          : cadence
            ? `At ${percentText(speed)}: ${describeCadence(cadence)}.`
            : 'This speed falls on no pattern: nearly every frame is made.'}
      </Note>
    </Panel>
  );
}
