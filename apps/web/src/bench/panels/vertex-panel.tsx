import {
  bendWindow,
  InvalidInput,
  moveVertex,
  NAMED_EASES,
  reachSlope,
  setBend,
  type BezierEase,
  type NamedEase,
  type TimeMap,
  percentText,
} from '@idle-bend/core';
import { ChevronLeft, ChevronRight, Trash2 } from 'lucide-react';
import type { BenchClip } from '../bench-store.ts';
import { applyMap, changeMap, removeSelected, walkBends } from '../edits.ts';
import { EaseDrawing } from './ease-drawing.tsx';
import { EaseEditor } from './ease-editor.tsx';
import { TypedField } from './typed-field.tsx';
import { Panel } from './panel.tsx';

const TITLES: Readonly<Record<NamedEase, string>> = { straight: 'Straight', soft: 'Soft', silk: 'Silk', early: 'Early', late: 'Late' };
const OWN_START: BezierEase = [0.4, 0, 0.6, 1];

const shortNumber = (n: number) => String(Math.round(n * 1000) / 1000);

function readNumber(typed: string): number {
  const match = /^([+-]?\d+(?:\.\d+)?)\s*f?$/.exec(typed);
  if (!match) throw new InvalidInput('number', `"${typed}" is not a number of frames`);
  return Number(match[1]);
}

export function VertexPanel({ bench, index }: { bench: BenchClip; index: number }) {
  const { map } = bench.clip;
  const { t, s } = map.vertices[index]!;
  const inner = index > 0 && index < map.vertices.length - 1;
  const move = (to: { t?: number; s?: number }) => applyMap((m) => moveVertex(m, index, { ...m.vertices[index]!, ...to }));
  const speed = (reach: number) => percentText(reachSlope(map, reach) / bench.slope);
  const title = inner ? `Bend ${index}` : index === 0 ? 'Start of the clip' : 'End of the clip';
  return (
    <Panel
      title={title}
      about={inner ? `${speed(index - 1)} into ${speed(index)}` : undefined}
      action={
        <span className="flex gap-1">
          <button className="button px-1.5" aria-label="Bend before" onClick={() => walkBends(-1)}>
            <ChevronLeft size={15} aria-hidden />
          </button>
          <button className="button px-1.5" aria-label="Bend after" onClick={() => walkBends(1)}>
            <ChevronRight size={15} aria-hidden />
          </button>
          {inner && (
            <button className="button px-1.5" aria-label="Remove this bend" onClick={removeSelected}>
              <Trash2 size={15} aria-hidden />
            </button>
          )}
        </span>
      }
    >
      {inner && <Shapes bench={bench} index={index} />}
      <div className="grid grid-cols-3 gap-3">
        {inner && (
          <TypedField
            label="Width, frames"
            text={shortNumber(map.bends[index]!.widthFrames)}
            commit={(typed) => applyMap((m) => setBend(m, index, { widthFrames: readNumber(typed) }))}
            step={(by) => applyMap((m) => setBend(m, index, { widthFrames: Math.max(0, Math.round(m.bends[index]!.widthFrames) + by) }))}
          />
        )}
        {index > 0 && (
          <TypedField
            label="Sits at, frame"
            text={shortNumber(t)}
            commit={(typed) => move({ t: readNumber(typed) })}
            step={(by) => move({ t: Math.round(t) + by })}
          />
        )}
        <TypedField
          label="Source frame"
          text={shortNumber(s)}
          commit={(typed) => move({ s: readNumber(typed) })}
          step={(by) => move({ s: Math.round(s) + by })}
        />
      </div>
      {inner && typeof map.bends[index]!.ease !== 'string' && (
        <EaseEditor bench={bench} index={index} ease={map.bends[index]!.ease} falls={slowsDown(map, index)} />
      )}
      {inner && map.bends[index]!.widthFrames > 0 && <WindowNote bench={bench} index={index} />}
    </Panel>
  );
}

const slowsDown = (map: TimeMap, index: number) => reachSlope(map, index) < reachSlope(map, index - 1);

function Shapes({ bench, index }: { bench: BenchClip; index: number }) {
  const { map } = bench.clip;
  const { ease } = map.bends[index]!;
  const falls = slowsDown(map, index);
  const own = typeof ease !== 'string';
  const card = (on: boolean) => `rounded-lg border px-1 pt-1 text-xs ${on ? 'border-vermilion bg-sheet' : 'border-line bg-sheet hover:border-river'}`;
  return (
    <div role="group" aria-label="Shape" className="grid grid-cols-6 gap-1.5">
      {NAMED_EASES.map((name) => (
        <button key={name} className={card(ease === name)} aria-pressed={ease === name} onClick={() => changeMap((m) => setBend(m, index, { ease: name }))}>
          <EaseDrawing ease={name} falls={falls} />
          {TITLES[name]}
        </button>
      ))}
      <button className={card(own)} aria-pressed={own} onClick={() => !own && changeMap((m) => setBend(m, index, { ease: OWN_START }))}>
        <EaseDrawing ease={own ? ease : OWN_START} falls={falls} />
        Own
      </button>
    </div>
  );
}

function WindowNote({ bench, index }: { bench: BenchClip; index: number }) {
  const { from, to } = bendWindow(bench.clip.map, index);
  return (
    <p className="text-faint text-xs">
      Changes speed from frame <span className="font-mono">{shortNumber(from)}</span> to <span className="font-mono">{shortNumber(to)}</span>; nothing outside
      that moves.
    </p>
  );
}
