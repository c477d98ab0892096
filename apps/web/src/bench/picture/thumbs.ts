import { useCallback, useEffect } from 'react';
import { create } from 'zustand';
import type { FromPreview } from '../../preview/messages.ts';
import { tellPreview } from '../../preview/thread.ts';

const key = (footageId: string, frame: number) => `${footageId} ${frame}`;
const MOST = 400;

/** Small pictures of source frames, by footage and frame; the last few hundred. */
const useThumbs = create<{ readonly of: ReadonlyMap<string, ImageBitmap> }>(() => ({ of: new Map() }));

export function keepThumb({ footageId, frame, picture }: Extract<FromPreview, { kind: 'thumb' }>): void {
  useThumbs.setState(({ of }) => {
    const kept = [...of].slice(-MOST);
    return { of: new Map([...kept, [key(footageId, frame), picture]]) };
  });
}

/** Small pictures of frames of the clip on the bench, as far as they are there; the others are asked for. */
export function useFrameThumbs(
  footageId: string,
  frames: readonly number[],
): (frame: number) => ImageBitmap | undefined {
  const thumb = useThumbsThere();
  const wanted = frames.filter((frame) => !thumb(footageId, frame)).join(' ');
  useEffect(() => {
    if (wanted !== '') tellPreview({ kind: 'thumbs', sourceId: footageId, frames: wanted.split(' ').map(Number) });
  }, [wanted, footageId]);
  return (frame) => thumb(footageId, frame);
}

/** Those of any footage that are there. */
export function useThumbsThere(): Thumbs {
  const of = useThumbs((s) => s.of);
  return useCallback((footageId, frame) => of.get(key(footageId, frame)), [of]);
}

export type Thumbs = (footageId: string, frame: number) => ImageBitmap | undefined;
