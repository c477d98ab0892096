import { useEffect, useState, type KeyboardEvent, type PointerEvent } from 'react';

/** What the picture is wide at least, and what the chart keeps, pixels. */
const NARROWEST = 360;
const FOR_THE_CHART = 400;

/** On a wide window the picture begins large. */
const WIDE_WINDOW = 1600;
const NARROW = 430;
const SHARE = 0.45;

const KEY = 'picture-width';
const STEP = 20;

/** How wide the picture is, as it was left in this browser; as suits the window where it never was changed. */
export function usePictureWidth() {
  const [chosen, setChosen] = useState(() => Number(localStorage.getItem(KEY)) || undefined);
  const [windowWidth, setWindowWidth] = useState(innerWidth);
  useEffect(() => {
    const follow = () => setWindowWidth(innerWidth);
    addEventListener('resize', follow);
    return () => removeEventListener('resize', follow);
  }, []);
  const widest = Math.max(NARROWEST, windowWidth - FOR_THE_CHART);
  const within = (width: number) => Math.round(Math.min(widest, Math.max(NARROWEST, width)));
  const set = (width: number | undefined) => {
    if (width === undefined) localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, String(within(width)));
    setChosen(width === undefined ? undefined : within(width));
  };
  const width = within(chosen ?? (windowWidth >= WIDE_WINDOW ? SHARE * windowWidth : NARROW));
  return { width, widest, set };
}

/** Between the chart and the picture: dragged, or moved by the arrow keys; a double click has it as it was first. */
export function Divider({ width, widest, set }: ReturnType<typeof usePictureWidth>) {
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons === 1 && event.currentTarget.hasPointerCapture(event.pointerId)) set(innerWidth - event.clientX);
  };
  const onKey = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowLeft' ? STEP : event.key === 'ArrowRight' ? -STEP : 0;
    if (by === 0 || event.shiftKey) return;
    // The bench walks frames by them otherwise.
    event.stopPropagation();
    event.preventDefault();
    set(width + by);
  };
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label="Width of the picture"
      aria-valuenow={width}
      aria-valuemin={NARROWEST}
      aria-valuemax={widest}
      tabIndex={0}
      data-tip="Drag for a larger picture; Shift F has it over the whole window"
      className="border-line hover:bg-river/30 focus-visible:bg-river/30 relative w-1.5 shrink-0 cursor-col-resize touch-none border-l"
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      // After a drag the keys are the bench's.
      onMouseDown={(event) => event.preventDefault()}
      onPointerMove={drag}
      onDoubleClick={() => set(undefined)}
      onKeyDown={onKey}
    />
  );
}
