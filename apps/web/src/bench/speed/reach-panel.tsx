import { cadenceOfSpeed, describeCadence, nearestEvenSpeed } from '@idle-bend/core/cadence';
import { lockReach, setReachMethod } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Method } from '@idle-bend/core/model';
import { methodOf } from '@idle-bend/core/reel';
import { parseSpeed, percentText } from '@idle-bend/core/time';
import { mirrorEase, setReachBends, reachSlope, setReachSpeed } from '@idle-bend/core/time-map';
import { Lock, LockOpen } from 'lucide-react';
import { Choice } from '../../ui/choice.tsx';
import { ReachSound } from '../sound/clip-sound.tsx';
import { METHOD_CHOICES } from './clip-speed.tsx';
import { KEEPS } from './keeps.ts';
import { TypedField } from '../../ui/typed-field.tsx';
import { Note, Panel } from '../../ui/panel.tsx';
import { edit } from '../../session/session.ts';
import { benchStore, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { applyMap, changeMap } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';

/** Both bends of a reach at once, matched; and whether a landing may change its speed. */
function Ends({ bench, index }: { bench: BenchClip; index: number }) {
  const { map, locks, id } = bench.clip;
  const last = map.vertices.length - 1;
  const [into, outOf] = [
    index > 0 ? map.bends[index]! : undefined,
    index + 1 < last ? map.bends[index + 1]! : undefined,
  ];
  const bend = into ?? (outOf && { ...outOf, ease: mirrorEase(outOf.ease) });
  const locked = locks.includes(index);
  const width = (frames: number) => applyMap((m) => setReachBends(m, index, { widthFrames: frames, ease: bend!.ease }));
  const read = (typed: string) => {
    if (!/^\d+(\.\d+)?$/.test(typed)) throw new InvalidInput('width', `"${typed}" is not a number of frames`);
    return Number(typed);
  };
  return (
    <div className="grid grid-cols-2 items-end gap-3">
      {bend && (
        <TypedField
          label={into && outOf ? 'Bends at both ends, frames' : 'Bend at its end, frames'}
          text={String(Math.round(bend.widthFrames * 1000) / 1000)}
          commit={(typed) => width(read(typed))}
          step={(by) => width(Math.max(0, Math.round(bend.widthFrames) + by))}
        />
      )}
      <button
        className={`button h-8 ${locked ? 'border-river text-river' : ''}`}
        aria-pressed={locked}
        data-tip="A locked reach keeps its speed when a moment is landed"
        onClick={() => edit((project) => lockReach(project, id, index, !locked))}
      >
        {locked ? <Lock size={15} aria-hidden /> : <LockOpen size={15} aria-hidden />}{' '}
        {locked ? 'Locked' : 'Lock its speed'}
      </button>
    </div>
  );
}

/** How this reach's in-betweens are made, where not as the clip's. */
function ReachMethods({ bench, index }: { bench: BenchClip; index: number }) {
  const { clip, project } = bench;
  const own = clip.reachMethods.find(({ reach }) => reach === index)?.method ?? 'clip';
  const clips = METHOD_CHOICES.find(({ value }) => value === methodOf(project, clip))!.text;
  return (
    <Choice<Method | 'clip'>
      label="In-betweens of this reach"
      value={own}
      options={[{ value: 'clip', text: `The clip’s: ${clips}` }, ...METHOD_CHOICES]}
      choose={(next) => edit((p) => setReachMethod(p, clip.id, index, next === 'clip' ? null : next))}
    />
  );
}

export function ReachPanel({ bench, index }: { bench: BenchClip; index: number }) {
  const { clip, slope, source, project } = bench;
  const keep = useBench((s) => s.keep);
  const [a, b] = [clip.map.vertices[index]!, clip.map.vertices[index + 1]!];
  const speed = reachSlope(clip.map, index) / slope;
  const set = (typed: number) => applyMap((map) => setReachSpeed(map, index, typed, slope, keep));
  const measure = speedMeasure(bench, b.t - a.t, speed);
  const frames = Math.round((b.t - a.t) * 100) / 100;
  const cadence = cadenceOfSpeed(speed, source.readAs, project.reel.rate);
  const even = nearestEvenSpeed(speed, source.readAs, project.reel.rate, 0.5);
  return (
    <Panel
      title={`Reach ${index + 1}`}
      about={`${frames} frames · source ${Math.round(a.s * 100) / 100} to ${Math.round(b.s * 100) / 100}`}
    >
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Speed"
          takesTyping
          text={percentText(speed)}
          commit={(typed) => set(parseSpeed(typed, measure))}
          step={(by) => set((Math.round(speed * 100) + by) / 100)}
        />
        <Choice
          label="A new speed keeps"
          value={keep}
          options={KEEPS}
          choose={(next) => benchStore.setState({ keep: next })}
        />
      </div>
      <div className="flex gap-2">
        <button
          className="button"
          disabled={speed === 0}
          onClick={() => changeMap((map) => setReachSpeed(map, index, 0, slope, keep))}
        >
          Freeze
        </button>
        <button
          className="button"
          disabled={speed === 0}
          onClick={() => changeMap((map) => setReachSpeed(map, index, -speed, slope, keep))}
        >
          Reverse
        </button>
        {even !== undefined && Math.abs(even - speed) > 1e-9 && (
          <button className="button" onClick={() => changeMap((map) => setReachSpeed(map, index, even, slope, keep))}>
            Even at {percentText(even)}
          </button>
        )}
      </div>
      <Ends bench={bench} index={index} />
      <ReachMethods bench={bench} index={index} />
      <ReachSound bench={bench} index={index} />
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
