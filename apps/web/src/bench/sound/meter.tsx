import { useEffect, useRef } from 'react';
import { levelNow } from './player.ts';
import { useBench } from '../../ui/use-session.ts';

const FLOOR = -48;
/** Decibels a second a bar falls by. */
const FALL = 36;

const share = (decibels: number) => Math.max(0, Math.min(1, 1 - decibels / FLOOR));

/** How loud both channels are while something plays; a line stays where it was loudest, vermilion once it was too loud. */
export function Meter() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const playing = useBench((s) => s.clock > 0);
  useEffect(() => {
    const context = canvas.current!.getContext('2d')!;
    const { width, height } = canvas.current!;
    const style = getComputedStyle(canvas.current!);
    const colour = (name: string) => style.getPropertyValue(name).trim();
    const shown = [FLOOR, FLOOR];
    const most = [FLOOR, FLOOR];
    let last = performance.now();
    let handle = 0;
    const draw = () => {
      const now = performance.now();
      const levels = levelNow().map((level) => 20 * Math.log10(Math.max(1e-6, level)));
      context.clearRect(0, 0, width, height);
      levels.forEach((level, i) => {
        shown[i] = Math.max(level, shown[i]! - (FALL * (now - last)) / 1000, FLOOR);
        most[i] = Math.max(most[i]!, level);
        const [x, w] = [i * (width / 2) + 1, width / 2 - 2];
        context.fillStyle = colour('--line');
        context.fillRect(x, 0, w, height);
        context.fillStyle = colour('--brass');
        context.fillRect(x, height * (1 - share(shown[i])), w, height * share(shown[i]));
        context.fillStyle = colour(most[i] > 0 ? '--vermilion' : '--ink');
        if (most[i] > FLOOR) context.fillRect(x, Math.min(height - 2, height * (1 - share(most[i]))), w, 2);
      });
      last = now;
      if (playing) handle = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(handle);
  }, [playing]);
  return (
    <canvas
      ref={canvas}
      width={20}
      height={56}
      className="h-7 w-2.5"
      role="img"
      aria-label="Loudness meter, left and right"
      data-tip={`Peaks, ${FLOOR} to 0 dBFS`}
    />
  );
}
