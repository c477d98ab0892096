import type { Footage } from '@idle-bend/core/api';
import { resolveClip } from '@idle-bend/core/resolve';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { useQueries } from '@tanstack/react-query';
import { stripUrl } from '../api.ts';
import { later } from '../in-turns.ts';
import type { BenchClip } from '../session/bench-state.ts';
import { useFootage } from './motion.ts';

/** A small picture of a source frame: the footage's strip, and which of its pictures. */
export interface Small {
  readonly address: string;
  readonly index: number;
  readonly count: number;
}

/** The small picture nearest before a frame of footage; none before its strip is made. */
export function smallOf(footage: readonly Footage[], sourceId: string, frame: number): Small | undefined {
  const media = footage.find(({ id }) => id === sourceId);
  if (media?.status !== 'ready' || !media.facts.picture) return undefined;
  const { step, count } = media.facts.picture.strip;
  return { address: stripUrl(sourceId, media.revision), index: Math.min(count - 1, Math.floor(frame / step)), count };
}

/** The strips of sources that have been made, by address, each loaded once. */
export function useStrips(sourceIds: readonly string[]): {
  readonly footage: readonly Footage[];
  readonly strips: Strips;
} {
  const footage = useFootage() ?? NONE;
  const addresses = sourceIds.flatMap((id) => smallOf(footage, id, 0)?.address ?? []);
  const strips = useQueries({
    queries: addresses.map((address) => ({
      queryKey: ['strip', address],
      queryFn: () => later(() => loaded(address)),
      staleTime: Infinity,
    })),
    combine: (results) => new Map(results.flatMap(({ data }, i) => (data ? [[addresses[i]!, data] as const] : []))),
  });
  return { footage, strips };
}

export type Strips = ReadonlyMap<string, HTMLImageElement>;
const NONE: readonly Footage[] = [];

async function loaded(address: string): Promise<HTMLImageElement> {
  const image = new Image();
  image.src = address;
  await image.decode();
  return image;
}

/** The small pictures of what a clip's frames show, through groups; none where that is black. */
export function smallsOf({ project, clip }: BenchClip, footage: readonly Footage[]): (k: number) => Small | undefined {
  const show = resolveClip(project, clip);
  return (k) => {
    const shown = show(k);
    if (!shown) return undefined;
    const { source, position } = shown;
    const frame = Math.round(frameOfPosition(source, position));
    return smallOf(footage, source.id, Math.max(0, Math.min(source.frames - 1, frame)));
  };
}
