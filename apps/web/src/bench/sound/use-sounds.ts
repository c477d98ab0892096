import type { Footage, HeardSound } from '@idle-bend/core/api';
import { setBeats } from '@idle-bend/core/edit';
import type { BeatGrid, Project } from '@idle-bend/core/model';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api } from '../../api.ts';
import { useFootage } from '../motion.ts';
import { amend } from '../../session/session.ts';
import { useKnown } from '../../ui/use-known.ts';

export const useSoundFootage = (footageId: string): Footage | undefined =>
  useFootage()?.find(({ id }) => id === footageId);

const heardQuery = (footageId: string, media: Footage | undefined) => ({
  queryKey: ['heard', footageId, media?.revision],
  queryFn: async () => remembered(footageId, await api.heard(footageId, media!.revision)),
  enabled: media?.sound === 'ready',
  staleTime: Infinity,
});

const known = new Map<string, HeardSound>();

function remembered(footageId: string, heard: HeardSound): HeardSound {
  known.set(footageId, heard);
  return heard;
}

/** What was heard in a sound's file, as far as this page has asked for it. */
export const heardBefore = (footageId: string): HeardSound | undefined => known.get(footageId);

/** What was heard in a sound's file. */
export function useHeard(footageId: string): HeardSound | undefined {
  return useQuery(heardQuery(footageId, useSoundFootage(footageId))).data;
}

/** What was heard in several pieces of footage: of those that are known. */
export function useAllHeard(footageIds: readonly string[]): ReadonlyMap<string, HeardSound> {
  const ready = (useFootage() ?? []).filter(({ id, sound }) => sound === 'ready' && footageIds.includes(id));
  return useKnown(ready.map((media) => ({ id: media.id, ...heardQuery(media.id, media) })));
}

export const gridOf = ({ beats, bar }: HeardSound): BeatGrid => ({
  times: beats,
  bar: { beats: bar.beats, first: ((bar.first % bar.beats) + bar.beats) % bar.beats },
});

/** Gives sounds that have no beats yet what was heard in them, as soon as that is known. */
export function useHearing(project: Project): void {
  const footage = useFootage() ?? [];
  const waiting = project.reel.sounds.filter(({ beats }) => beats === null);
  const heard = useQueries({
    queries: waiting.map(({ footageId }) =>
      heardQuery(
        footageId,
        footage.find(({ id }) => id === footageId),
      ),
    ),
  });
  const ready = waiting.flatMap(({ id }, i) => (heard[i]?.data ? [{ id, heard: heard[i].data }] : []));
  const key = ready.map(({ id }) => id).join(' ');
  useEffect(() => {
    for (const { id, heard: found } of ready)
      if (found.beats.length > 1) amend((before) => setBeats(before, id, gridOf(found)));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the ids say all
  }, [key]);
}
