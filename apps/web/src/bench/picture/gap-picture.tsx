import { effectsOf } from '@idle-bend/core/accent';
import type { Effects, FlashColour } from '@idle-bend/core/look';
import type { Project } from '@idle-bend/core/model';
import { draftSize } from '@idle-bend/core/render';
import { useEffect, useMemo, useRef } from 'react';
import { useFootage } from '../motion.ts';
import { shownLines } from './use-preview.ts';

/** What is seen where no clip is: black, and what accents and titles put over it. */
export function GapPicture({ project, frame }: { project: Project; frame: number }) {
  const effects = useMemo(() => effectsOf(project)(frame), [project, frame]);
  const { width, height } = draftSize(project.reel, shownLines(useFootage()));
  const canvas = useRef<HTMLCanvasElement>(null);
  const isPlain = !effects.flash && effects.titles.length === 0;
  useEffect(() => {
    let isOver = false;
    const context = canvas.current?.getContext('2d');
    if (!context || isPlain) return;
    void drawGap(context, effects, width, height, () => isOver);
    return () => {
      isOver = true;
    };
  }, [effects, width, height, isPlain]);
  if (isPlain)
    return (
      <p className="absolute inset-0 grid place-items-center bg-black text-sm text-white/60">black: no clip here</p>
    );
  return (
    <div className="absolute inset-0 bg-black">
      <canvas ref={canvas} data-gap width={width} height={height} className="h-full w-full object-contain" />
    </div>
  );
}

const colourOf = (colour: FlashColour): string => (colour === 'inverted' ? 'white' : colour);

async function drawGap(
  context: CanvasRenderingContext2D,
  { flash, titles }: Effects,
  width: number,
  height: number,
  isOver: () => boolean,
): Promise<void> {
  const { setLine } = await import('@idle-bend/core/title');
  if (isOver()) return;
  context.globalAlpha = 1;
  context.fillStyle = 'black';
  context.fillRect(0, 0, width, height);
  if (flash) {
    context.globalAlpha = flash.amount;
    context.fillStyle = colourOf(flash.colour);
    context.fillRect(0, 0, width, height);
  }
  for (const { text, size, x, y, colour, words } of titles) {
    context.fillStyle = colourOf(colour);
    setLine({ text, width, height, size, x, y }).forEach(({ coverage }, i) => {
      const { left, top, width: across, height: down, data } = coverage;
      if (across === 0 || !words[i]) return;
      const letters = new OffscreenCanvas(across, down);
      const own = letters.getContext('2d')!;
      own.fillStyle = context.fillStyle;
      own.fillRect(0, 0, across, down);
      const pixels = own.getImageData(0, 0, across, down);
      data.forEach((covered, n) => (pixels.data[4 * n + 3] = covered));
      own.putImageData(pixels, 0, 0);
      context.globalAlpha = words[i];
      context.drawImage(letters, left, top);
    });
  }
}
