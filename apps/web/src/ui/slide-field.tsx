import { Slider } from 'radix-ui';
import { useEffect } from 'react';
import { cancelGesture, endGesture } from '../session/session.ts';

interface Props {
  readonly label: string;
  /** Whole numbers from `low` to `high`. */
  readonly value: number;
  readonly low: number;
  readonly high: number;
  /** What the two ends mean, under them. */
  readonly ends: readonly [string, string];
  readonly shown: string;
  /** A step of a slide: to be an edit during a gesture; the slide is one undo. */
  readonly slide: (value: number) => void;
}

/** Keys that move the slide, and so must not move the playhead. */
const OWN_KEYS: ReadonlySet<string> = new Set([
  'ArrowLeft',
  'ArrowRight',
  'ArrowUp',
  'ArrowDown',
  'Home',
  'End',
  'PageUp',
  'PageDown',
]);

/** A number that is slid, with its effect in sight meanwhile; arrows move it by one, with Shift by ten. */
export function SlideField({ label, value, low, high, ends, shown, slide }: Props) {
  // A panel that closes in the middle of a slide ends it.
  useEffect(() => endGesture, []);
  return (
    <div>
      <div className="flex items-baseline justify-between">
        <span className="label">{label}</span>
        <span className="font-mono text-xs">{shown}</span>
      </div>
      <Slider.Root
        className="relative flex h-5 items-center"
        value={[value]}
        min={low}
        max={high}
        step={1}
        onValueChange={([next]) => slide(next!)}
        onValueCommit={endGesture}
        onPointerCancel={cancelGesture}
        // By keyboard the commit comes before the change.
        onKeyUp={endGesture}
        onBlur={endGesture}
        onKeyDown={(event) => OWN_KEYS.has(event.key) && event.stopPropagation()}
      >
        <Slider.Track className="bg-line relative h-1 flex-1 rounded-full">
          <Slider.Range className="bg-river-mid absolute h-full rounded-full" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          aria-valuetext={shown}
          className="bg-sheet border-river block h-4 w-4 rounded-full border-2"
        />
      </Slider.Root>
      <div className="text-faint -mt-0.5 flex justify-between text-[11px]">
        <span>{ends[0]}</span>
        <span>{ends[1]}</span>
      </div>
    </div>
  );
}
