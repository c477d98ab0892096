import { nearestBeat, setBeats, type BeatGrid, type Footage, type HeardSound, type Project, type Sound } from '@idle-bend/core';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api } from '../../api.ts';
import { amend, useProject } from '../../shell/project-store.ts';

function useFootage(): readonly Footage[] {
  const projectId = useProject((s) => s.id) ?? '';
  return useQuery({ queryKey: ['footage', projectId], queryFn: () => api.footage(projectId) }).data ?? [];
}

export const useSoundFootage = (footageId: string): Footage | undefined => useFootage().find(({ id }) => id === footageId);

/** The waveform of a sound's file; none before it was listened to. */
export function usePeaks(footageId: string): Int8Array | undefined {
  const media = useSoundFootage(footageId);
  return useQuery({
    queryKey: ['peaks', footageId, media?.revision],
    queryFn: () => api.peaks(footageId, media!.revision),
    enabled: media?.sound === 'ready',
    staleTime: Infinity,
  }).data;
}

const heardQuery = (footageId: string, media: Footage | undefined) => ({
  queryKey: ['heard', footageId, media?.revision],
  queryFn: () => api.heard(footageId, media!.revision),
  enabled: media?.sound === 'ready',
  staleTime: Infinity,
});

/** What was heard in a sound's file. */
export function useHeard(footageId: string): HeardSound | undefined {
  return useQuery(heardQuery(footageId, useSoundFootage(footageId))).data;
}

export const gridOf = ({ beats, bar }: HeardSound): BeatGrid => ({ times: beats, bar: { beats: bar.beats, first: ((bar.first % bar.beats) + bar.beats) % bar.beats } }); // prettier-ignore

/** Gives sounds that have no beats yet what was heard in them, as soon as that is known; and their length, when it was only thought. */
export function useHearing(project: Project): void {
  const footage = useFootage();
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
    for (const { id, heard: found } of ready) if (found.beats.length > 1) amend((before) => setBeats(before, id, gridOf(found)));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the ids say all
  }, [key]);
}

/** The beat of a sound nearest to a second, when there is one within `reach` seconds. */
export function beatNear({ beats }: Sound, second: number, reach = Infinity): number | undefined {
  if (!beats) return undefined;
  const i = nearestBeat(beats.times, second);
  return i >= 0 && Math.abs(beats.times[i]! - second) <= reach ? i : undefined;
}
