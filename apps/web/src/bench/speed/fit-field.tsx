import { clipSlope } from '@idle-bend/core/reel';
import { TypedField } from '../../ui/typed-field.tsx';
import { type BenchClip } from '../../session/bench-state.ts';
import { lazy, Suspense } from 'react';
import { parseLength } from '@idle-bend/core/time';

/** After the bench: nothing of what is shown first opens a list. */
const Select = lazy(async () => ({ default: (await import('../../ui/select.tsx')).Select }));

interface Props {
  readonly bench: BenchClip;
  /** How long the stretch is now, timeline frames. */
  readonly frames: number;
  /** Source frames it uses. */
  readonly content: number;
  readonly fit: (frames: number) => void;
}

/** How long a stretch lasts: typed, or the span between two cues; with what that asks of the source. */
export function FitField({ bench, frames, content, fit }: Props) {
  const { project } = bench;
  const shown = Math.round(frames);
  const needed = Math.round(frames * clipSlope(project, bench.clip) * 10) / 10;
  return (
    <div>
      <div className="grid grid-cols-2 gap-3">
        <TypedField
          label="Length, frames"
          text={String(shown)}
          commit={(typed) => fit(Math.max(1, Math.round(parseLength(typed, project.reel.rate))))}
          step={(by) => fit(Math.max(1, Math.round(frames) + by))}
        />
        <Suspense>
          <SpanChoice bench={bench} fit={fit} />
        </Suspense>
      </div>
      <p className="text-faint mt-1 text-xs" data-testid="needed">
        {shown} frames at 100 % need <span className="font-mono">{needed}</span> source frames; there are{' '}
        <span className="font-mono">{Math.round(Math.abs(content) * 10) / 10}</span>.
      </p>
    </div>
  );
}

/** The spans from cue to cue, each with how many frames it has. */
function SpanChoice({ bench, fit }: Pick<Props, 'bench' | 'fit'>) {
  const { cues } = bench.project.reel;
  const marks = [
    { name: 'the clip’s start', frame: bench.start },
    ...cues.map(({ name, frame }) => ({ name: name || `frame ${frame}`, frame: Math.round(frame) })),
  ];
  const spans = marks
    .flatMap((a, i) => marks.slice(i + 1).map((b) => ({ text: `${a.name} to ${b.name}`, frames: b.frame - a.frame })))
    .filter((span) => span.frames >= 1);
  return (
    <Select
      label="Fit to the span"
      value=""
      none={spans.length === 0 ? 'set cues first (C)' : 'between two cues…'}
      disabled={spans.length === 0}
      options={spans.map(({ text, frames }, i) => ({ value: String(i), text: `${text}: ${frames} frames` }))}
      choose={(i) => fit(spans[Number(i)]!.frames)}
    />
  );
}
