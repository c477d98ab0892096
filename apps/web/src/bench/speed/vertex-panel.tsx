import { BEND_SHAPES } from '@idle-bend/core/shape';
import { percentText } from '@idle-bend/core/time';
import {
  bendWindow,
  isTurn,
  reachTurn,
  turnsAt,
  type Ease,
  moveVertex,
  reachSlope,
  setBend,
  type BezierEase,
  type TimeMap,
} from '@idle-bend/core/time-map';
import { ChevronLeft, ChevronRight, Trash2 } from 'lucide-react';
import { EaseDrawing } from '../shape/ease-drawing.tsx';
import { EaseEditor } from '../shape/ease-editor.tsx';
import { SavedShapes } from '../shape/saved-shapes.tsx';
import { ShapeNote, useShapeNote } from '../shape/shape-note.tsx';
import { BendWidth, readFrames, shortNumber, SitsAt } from './bend-fields.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { Panel } from '../../ui/panel.tsx';
import { Choice } from '../../ui/choice.tsx';
import { useBench } from '../../ui/use-session.ts';
import { benchStore, type BenchClip, type BendKeeps } from '../../session/bench-state.ts';
import { applyMap, changeMap } from '../../session/command.ts';
import { removeSelected, walkBends } from '../clip/commands.ts';

const OWN_START: BezierEase = [0.4, 0, 0.6, 1];

/** A library shape to start one's own from: a hair away, so that it is one's own. */
const nearOwn = ([x1, y1, x2, y2]: BezierEase): BezierEase => [x1, y1, x2, y2 - 0.01];

export function VertexPanel({ bench, index }: { bench: BenchClip; index: number }) {
  const { map } = bench.clip;
  const { s } = map.vertices[index]!;
  const inner = index > 0 && index < map.vertices.length - 1;
  const move = (to: number) => applyMap((m) => moveVertex(m, index, { t: m.vertices[index]!.t, s: to }));
  const speed = (reach: number) => percentText(reachSlope(map, reach) / bench.slope);
  const title = inner ? `Bend ${index}` : index === 0 ? 'Start of the clip' : 'End of the clip';
  return (
    <Panel
      title={title}
      recipe="ramp"
      about={inner ? `${speed(index - 1)} into ${speed(index)}` : undefined}
      action={
        <span className="flex gap-1">
          <button className="button px-1.5" aria-label="Bend before" onClick={() => walkBends(-1, index)}>
            <ChevronLeft size={15} aria-hidden />
          </button>
          <button className="button px-1.5" aria-label="Bend after" onClick={() => walkBends(1, index)}>
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
        {inner && <BendWidth bench={bench} index={index} label="Width, frames" />}
        {index > 0 && <SitsAt bench={bench} index={index} label="Sits at, frame" />}
        <TypedField
          label="Source frame"
          text={shortNumber(s)}
          commit={(typed) => move(readFrames(typed))}
          step={(by) => move(Math.round(s) + by)}
        />
      </div>
      {inner && <Moving />}
      {isTurn(map, index) && <Turn bench={bench} index={index} />}
      {inner && typeof map.bends[index]!.ease !== 'string' && (
        <EaseEditor bench={bench} index={index} ease={map.bends[index]!.ease} falls={slowsDown(map, index)} />
      )}
      {inner && map.bends[index]!.widthFrames > 0 && <WindowNote bench={bench} index={index} />}
      {inner && (
        <SavedShapes
          kind="bend"
          content={() => ({ kind: 'bend', ease: map.bends[index]!.ease })}
          put={(shape) => shape.kind === 'bend' && changeMap((m) => setBend(m, index, { ease: shape.ease }))}
        />
      )}
    </Panel>
  );
}

const BEND_KEEPS: readonly { value: BendKeeps; text: string; title: string }[] = [
  {
    value: 'speeds',
    text: 'Speeds',
    title: 'Both speeds beside it stay; what follows slides or slips, as a new speed does',
  },
  { value: 'source', text: 'Source frame', title: 'It sits at the same source frame: both speeds beside it change' },
  { value: 'neither', text: 'Neither', title: 'It goes along the speed before it; the speed after it changes' },
];

/** What dragging its lens, and typing where it sits, keep. */
function Moving() {
  const keeps = useBench((s) => s.bendKeeps);
  return (
    <Choice
      label="Moving keeps"
      value={keeps}
      options={BEND_KEEPS}
      choose={(bendKeeps) => benchStore.setState({ bendKeeps })}
    />
  );
}

const slowsDown = (map: TimeMap, index: number) => reachSlope(map, index) < reachSlope(map, index - 1);

function Shapes({ bench, index }: { bench: BenchClip; index: number }) {
  const { map } = bench.clip;
  const { ease } = map.bends[index]!;
  const falls = slowsDown(map, index);
  const note = useShapeNote();
  const isEase = (other: Ease) => String(other) === String(ease);
  const known = BEND_SHAPES.find((shape) => isEase(shape.ease));
  const own = !known;
  const put = (next: Ease) => changeMap((m) => setBend(m, index, { ease: next }));
  const card = (on: boolean) =>
    `rounded-lg border px-1 pt-1 text-xs ${on ? 'border-vermilion bg-sheet' : 'border-line bg-sheet hover:border-river'}`;
  return (
    <>
      <div role="group" aria-label="Shape" className="grid grid-cols-6 gap-1.5">
        {BEND_SHAPES.map((shape) => (
          <button
            key={shape.id}
            className={card(isEase(shape.ease))}
            aria-pressed={isEase(shape.ease)}
            onClick={() => put(shape.ease)}
            {...note.of(shape)}
          >
            <EaseDrawing ease={shape.ease} falls={falls} />
            {shape.name}
          </button>
        ))}
        <button
          className={card(own)}
          aria-pressed={own}
          onClick={() => !own && put(typeof ease === 'string' ? OWN_START : nearOwn(ease))}
        >
          <EaseDrawing ease={own ? ease : OWN_START} falls={falls} />
          Own
        </button>
      </div>
      <ShapeNote shown={note.shown ?? known} otherwise="A shape of your own: drag its handles." />
    </>
  );
}

/** Rounding cuts the corner of a turn: where it really turns, and one press to reach the frame it was meant to. */
function Turn({ bench, index }: { bench: BenchClip; index: number }) {
  const { map } = bench.clip;
  const meant = map.vertices[index]!.s;
  const real = turnsAt(map, index);
  if (Math.abs(real - Math.round(real)) < 1e-6)
    return <p className="text-faint text-xs">Turns exactly at source {Math.round(real)}.</p>;
  return (
    <p className="flex items-center gap-2 text-sm">
      Turns at source <span className="font-mono">{real.toFixed(2)}</span>, short of{' '}
      <span className="font-mono">{shortNumber(meant)}</span>.
      <button
        className="button ml-auto py-0.5"
        onClick={() => changeMap((m) => reachTurn(m, index, Math.round(meant)))}
      >
        Reach {Math.round(meant)}
      </button>
    </p>
  );
}

function WindowNote({ bench, index }: { bench: BenchClip; index: number }) {
  const bend = bench.clip.map.bends[index]!;
  const { from, to } = bendWindow(bench.clip.map, index);
  return (
    <p className="text-faint text-xs">
      Changes speed from frame <span className="font-mono">{shortNumber(from)}</span> to{' '}
      <span className="font-mono">{shortNumber(to)}</span>; nothing outside that moves.
      {bend.wanted !== undefined && (
        <span className="text-ink block">
          Its {shortNumber(bend.wanted)} frames have no room beside its neighbours; it gets them back when they do.
        </span>
      )}
    </p>
  );
}
