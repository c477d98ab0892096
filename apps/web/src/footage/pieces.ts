import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { piecesOf } from '@idle-bend/core/proxy';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api } from '../api.ts';
import { useProgress } from '../shell/use-server-events.ts';

/** Stretches of source frames whose pieces of the proxy are there, each up to but not with its end; nothing once it is whole. */
export function usePieces(footage: Footage | undefined): readonly (readonly [number, number])[] | undefined {
  const done = useProgress((s) => (footage && s.of[footage.id]?.done) ?? 0);
  const isMaking = footage?.status === 'preparing' && footage.facts.picture !== null;
  // Twice in the time a piece takes.
  const every = footage?.facts.picture ? piecesOf(footage.facts.picture).frames / 2 : 1;
  const { data } = useQuery({
    queryKey: ['pieces', footage?.id, footage?.revision, Math.floor(done / every)],
    queryFn: () => api.pieces(footage!.id),
    enabled: isMaking,
    placeholderData: keepPreviousData,
    gcTime: 0,
    retry: false,
  });
  return isMaking ? stretchesOf(data?.made ?? [], footage.facts.picture) : undefined;
}

function stretchesOf(made: readonly number[], picture: PictureFacts): readonly (readonly [number, number])[] {
  const layout = piecesOf(picture);
  const stretches: [number, number][] = [];
  for (const piece of made) {
    const first = layout.first(piece);
    const end = first + layout.framesIn(piece);
    const last = stretches.at(-1);
    if (last?.[1] === first) last[1] = end;
    else stretches.push([first, end]);
  }
  return stretches;
}
