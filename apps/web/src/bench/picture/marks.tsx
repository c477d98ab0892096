import { madeOf } from '@idle-bend/core/sampling';
import type { PointerEvent } from 'react';
import type { BenchClip, Compare, Shown } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { setCompare } from '../compare/commands.ts';
import { four } from './four.ts';

const METHOD_NAMES = { step: 'Step', mix: 'Mix', flow: 'Flow' } as const;

/** What the clip is compared with, in words. */
function otherName({ clip }: BenchClip, { other }: Compare): string {
  if (other.kind === 'plain') return 'plain, 100 %';
  if (other.kind === 'opened') return 'as opened';
  if (other.kind === 'method') return METHOD_NAMES[other.method] + (other.level ? `, ${other.level}` : '');
  return clip.versions.find((v) => v.id === other.id)?.name ?? '';
}

/** Names both sides of a comparison; a wipe's edge follows the pointer. */
export function CompareMarks({
  bench,
  compare,
  position,
}: {
  bench: BenchClip;
  compare: Compare;
  position: number | undefined;
}) {
  const wipe = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    const { left, width } = event.currentTarget.getBoundingClientRect();
    setCompare({ edge: Math.min(1, Math.max(0, (event.clientX - left) / width)) });
  };
  const tag = 'absolute top-2 rounded bg-black/65 px-2 py-0.5 text-xs text-white';
  return (
    <div
      className={`absolute inset-0 ${compare.how === 'wipe' ? 'cursor-ew-resize touch-none' : ''}`}
      data-testid="compare"
      data-other={position}
      {...(compare.how === 'wipe' && { onPointerDown: wipe, onPointerMove: wipe })}
    >
      <span className={`${tag} left-2`}>
        {compare.how === 'difference'
          ? 'difference, four times as strong'
          : compare.other.kind === 'method'
            ? 'this clip'
            : 'this curve'}
      </span>
      <span className={`${tag} right-2`}>
        {compare.how === 'blink' && 'in turn with '}
        {compare.how === 'difference' && 'from '}
        {otherName(bench, compare)}
        {position !== undefined && ` · ${position.toFixed(2)}`}
      </span>
    </div>
  );
}

const LOOK_TAG = 'absolute top-2 rounded bg-black/65 px-2 py-0.5 text-xs text-white';

/** What is laid over the picture, in words: a frame that is not made has neither neighbours nor motion. */
export function LookMarks({ shown }: { shown: Shown }) {
  const look = useBench((s) => s.look);
  const made = madeOf(shown.sample);
  if (!made) return <span className={`${LOOK_TAG} left-2`}>a real frame: nothing was made</span>;
  if (look === 'neighbours') {
    // The picture and its neighbours stand one and a half pictures high, in the middle.
    const places = [
      ['18%', '1.5%', `made, ${Math.round(made.fraction * 100)} % of the way`],
      ['18%', '68.5%', four(made.a)],
      ['51%', '68.5%', four(made.b)],
    ] as const;
    return (
      <div>
        {places.map(([left, top, text]) => (
          <span
            key={text}
            className="absolute rounded bg-black/65 px-2 py-0.5 font-mono text-xs text-white"
            style={{ left, top }}
          >
            {text}
          </span>
        ))}
      </div>
    );
  }
  if (shown.level === undefined) return <span className={`${LOOK_TAG} left-2`}>no motion is used here</span>;
  if (look === 'arrows')
    return (
      <span className={`${LOOK_TAG} left-2`}>
        from {four(made.a)} to {four(made.b)}
      </span>
    );
  if (look === 'blended') return <span className={`${LOOK_TAG} left-2`}>blended where motion explains too little</span>;
  if (look === 'colour') return <span className={`${LOOK_TAG} left-2`}>hue: which way · strength: how far</span>;
  return (
    <div>
      <span className={`${LOOK_TAG} left-2`} style={{ color: '#ff9a82' }}>
        hidden in {four(made.a)}
      </span>
      <span className={`${LOOK_TAG} right-2`} style={{ color: '#8fdad8' }}>
        hidden in {four(made.b)}
      </span>
    </div>
  );
}
