import type { Footage } from '@idle-bend/core/api';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { BenchClip } from '../session/bench-state.ts';
import { projectStore } from '../session/session.ts';
import { Transport } from '../session/transport.ts';
import { tellPlaying } from './tell-playing.ts';
import { tellReel } from './sound/clip-track.ts';
import { heardSources, playedClips, playedSounds } from './sound/heard.ts';
import { playSounds, prepareClips, prepareSound, stopSounds } from './sound/player.ts';

/** Plays while the bench is open: the transport with this browser's clock, its frames and its sound. */
export function useTransport({ project }: BenchClip): void {
  const queries = useQueryClient();
  const footage = () => queries.getQueryData<Footage[]>(['footage', projectStore.getState().id ?? '']) ?? [];

  useEffect(() => {
    for (const { url } of playedSounds(project, footage())) void prepareSound(url).catch(() => undefined);
    void prepareClips(playedClips(project, footage()));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- decoded once for every set of sounds
  }, [project.reel.sounds.map(({ footageId }) => footageId).join(' '), heardSources(project)]);

  useEffect(() => {
    const transport = new Transport({
      now: () => performance.now(),
      requestFrame: (step) => requestAnimationFrame(step),
      cancelFrame: (handle) => cancelAnimationFrame(handle),
      playSound: (heard, fromSecond, pace) =>
        playSounds(playedSounds(heard, footage()), playedClips(heard, footage()), fromSecond, pace),
      stopSound: stopSounds,
      updateSound: tellReel,
    });
    const ends = [transport.run(), tellPlaying()];
    return () => ends.forEach((end) => end());
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is read of the footage is read when playing begins
  }, [queries]);
}
