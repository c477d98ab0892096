import { updateClip } from '@idle-bend/core/edit';
import { END_CHOICES, type EndChoice, type Method } from '@idle-bend/core/model';
import { methodOf } from '@idle-bend/core/reel';
import { missingSource, usableFrames } from '@idle-bend/core/sampling';
import { parseSpeed, percentText } from '@idle-bend/core/time';
import { setClipSpeed } from '@idle-bend/core/time-map';
import { Eraser, Link, Scissors, Undo2 } from 'lucide-react';
import { lazy, Suspense, useMemo } from 'react';
import { Choice } from '../../ui/choice.tsx';
import { FitField } from './fit-field.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { applyMap } from '../../session/command.ts';
import { lately } from '../lately.ts';
import { changeMethod, joinWithNext, plainAgain, reverseClip, splitHere } from '../clip/commands.ts';

/** After the bench: the first picture does not wait for it. */
const Numbers = lazy(async () => ({ default: (await import('./numbers.tsx')).Numbers }));

/** At clean speeds; what that takes is loaded when it is wanted first. */
const stretch = lately(async () => (await import('../landing/commands.ts')).stretchHere);

export const METHOD_CHOICES: readonly { value: Method; text: string; title: string }[] = [
  { value: 'step', text: 'Step', title: 'Each frame is the source frame before it' },
  { value: 'mix', text: 'Mix', title: 'Each frame is blended of the two around it' },
  { value: 'flow', text: 'Flow', title: 'Each frame is made where things have moved to by then' },
];
const END_WORDS: Readonly<Record<EndChoice, string>> = {
  hold: 'holds its last frame',
  loop: 'begins again',
  black: 'is black',
};

/** The clip as a whole: its speed, its length, how in-between frames are made. */
export function ClipSpeed({ bench }: { bench: BenchClip }) {
  const { clip, source, slope } = bench;
  const first = clip.map.vertices[0]!;
  const last = clip.map.vertices.at(-1)!;
  const average = (last.s - first.s) / last.t / slope;
  const usable = usableFrames(source);
  const missing = useMemo(() => missingSource(clip.map, usable), [clip.map, usable]);
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Speed over all"
          text={percentText(average)}
          commit={(typed) =>
            applyMap((map) => setClipSpeed(map, parseSpeed(typed, speedMeasure(bench, last.t, average)), slope))
          }
        />
        <Choice
          label="In-betweens"
          value={methodOf(bench.project, clip)}
          options={METHOD_CHOICES}
          choose={changeMethod}
        />
      </div>
      <FitField bench={bench} frames={bench.frames} content={last.s - first.s} fit={(n) => stretch(clip.id, n)} />
      <div className="grid grid-cols-4 gap-1.5">
        <button className="button justify-center px-1" onClick={reverseClip}>
          <Undo2 size={14} aria-hidden /> Reverse
        </button>
        <button
          className="button justify-center px-1"
          data-tip="Cut the clip in two at the playhead (S)"
          onClick={splitHere}
        >
          <Scissors size={14} aria-hidden /> Split
        </button>
        <button
          className="button justify-center px-1"
          data-tip="Make one clip of this and the next (Shift S)"
          onClick={joinWithNext}
        >
          <Link size={14} aria-hidden /> Join
        </button>
        <button
          className="button justify-center px-1"
          data-tip="Back to plain: take all retiming off"
          onClick={plainAgain}
        >
          <Eraser size={14} aria-hidden /> Plain
        </button>
      </div>
      <Suspense>
        <Numbers bench={bench} />
      </Suspense>
      {missing && (
        <Choice
          label={`Where source is missing the clip ${END_WORDS[clip.end]}`}
          value={clip.end}
          options={END_CHOICES.map((value) => ({ value, text: value.charAt(0).toUpperCase() + value.slice(1) }))}
          choose={(end) => edit((project) => updateClip(project, clip.id, (c) => ({ ...c, end })))}
        />
      )}
    </>
  );
}
