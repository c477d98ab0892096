import type { Clip, Project } from '@idle-bend/core/model';
import { allClips, reelFrames } from '@idle-bend/core/reel';
import { framesPerSecond } from '@idle-bend/core/time';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { Footage } from '@idle-bend/core/api';
import { soundUrl } from '../api.ts';
import { goToReelFrame, reelFrameOf, useBench, type BenchClip } from './bench-store.ts';
import { current } from './edits.ts';
import { tellReel } from './sound/clip-track.ts';
import {
  playSounds,
  prepareClips,
  prepareSound,
  stopSounds,
  type PlayedClips,
  type PlayedSound,
} from './sound/player.ts';
import { useProject } from '../shell/project-store.ts';

/**
 * While the clock runs, the playhead follows the sound as it is heard, or real time where nothing is; frames the machine cannot
 * keep up with are left out. Everything is counted from where and when playing began, so nothing adds up, across cuts and gaps
 * neither. Looping, it goes round the stretch of the clip that was chosen, or the reel's range; otherwise it stops at the reel's ends.
 */
export function useClock(bench: BenchClip): void {
  const clock = useBench((s) => s.clock);
  const pace = useBench((s) => s.pace);
  const loop = useBench((s) => s.loop);
  const reelLoop = useBench((s) => s.reelLoop);
  // Each lap round the reel's range begins again, so that its sound does too.
  const [lap, setLap] = useState(0);
  const queries = useQueryClient();
  const { reel } = bench.project;
  const { sounds, rate } = reel;
  const projectId = useProject((s) => s.id) ?? '';
  const footage = () => queries.getQueryData<Footage[]>(['footage', projectId]) ?? [];
  const played = () => playedSounds(bench.project, footage());

  useEffect(() => {
    for (const { url } of played()) void prepareSound(url).catch(() => undefined);
    void prepareClips(playedClips(bench.project, footage()));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- decoded once for every set of sounds
  }, [sounds.map(({ footageId }) => footageId).join(' '), heardSources(bench.project)]);

  // What is heard of the clips follows every edit, also while it plays.
  useEffect(() => {
    if (clock > 0) tellReel(bench.project);
  }, [clock, bench.project]);

  useEffect(() => {
    const now = current();
    if (clock === 0 || !now) return;
    const fps = framesPerSecond(rate);
    const speed = clock * pace;
    const from = reelFrameOf(now);
    let stopped = false;
    let handle = 0;
    void begin();

    async function begin() {
      // Backward there is nothing to hear; round a loop the sound would have to be cut again each time.
      const heard =
        speed > 0 && !loop
          ? await playSounds(played(), playedClips(now!.project, footage()), from / fps, speed)
          : undefined;
      if (stopped) return;
      const started = performance.now();
      const real = () => Math.max(0, performance.now() - started) / 1000;
      // A device that says it plays and stands still is not waited for.
      const seconds = () => (heard && (heard.now() > 0 || real() < 1) ? heard.now() : real()) * speed;
      handle = requestAnimationFrame(function tick() {
        const frame = from + Math.floor(seconds() * fps + 1e-6);
        if (loop ? !round(frame) : !along(frame)) return;
        handle = requestAnimationFrame(tick);
      });
    }

    /** One step round the loop, which lies within the clip. */
    function round(frame: number): boolean {
      const shown = current() ?? now!;
      const first = shown.start + loop!.from;
      const length = Math.min(shown.frames - 1, loop!.to) - loop!.from + 1;
      const k = loop!.from + ((((frame - first) % length) + length) % length);
      if (k !== useBench.getState().k) useBench.setState({ k, gapAt: undefined });
      return true;
    }

    /** One step along the reel; false at its ends, where the clock stops. */
    function along(frame: number): boolean {
      const project = useProject.getState().document;
      if (!project) return false;
      const last = reelFrames(project) - 1;
      const { range } = project.reel;
      const end = range && Math.min(range.to, last + 1);
      if (reelLoop && range && (speed > 0 ? frame >= end! : frame < range.from)) {
        goToReelFrame(project, speed > 0 ? range.from : end! - 1);
        setLap((n) => n + 1);
        return false;
      }
      const at = Math.max(0, Math.min(last, frame));
      const shown = current();
      if (shown && at !== reelFrameOf(shown)) goToReelFrame(project, at);
      if (frame >= 0 && frame <= last) return true;
      useBench.setState({ clock: 0 });
      return false;
    }

    return () => {
      stopped = true;
      cancelAnimationFrame(handle);
      stopSounds();
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- playing begins again when what is heard changes, not with every edit
  }, [clock, pace, loop, reelLoop, lap, rate, sounds]);
}

const isHeard = (clip: Clip) => clip.sound.mode !== 'mute' || clip.sound.reaches.some(({ mode }) => mode !== 'mute');

/** The sources of clips that are heard, inside groups too. */
const heardSources = (project: Project): string =>
  [
    ...new Set(
      allClips(project)
        .filter(isHeard)
        .map(({ sourceId }) => sourceId),
    ),
  ]
    .sort()
    .join(' ');

function playedClips(project: Project, footage: readonly Footage[]): PlayedClips {
  const ids = heardSources(project).split(' ');
  const sources = footage.flatMap(({ id, sound, revision }) =>
    sound === 'ready' && ids.includes(id) ? [{ id, url: soundUrl(id, revision) }] : [],
  );
  return { sources, project, whooshes: project.reel.joins.some(({ whoosh }) => whoosh) };
}

function playedSounds({ reel }: Project, footage: readonly Footage[]): PlayedSound[] {
  return reel.sounds.flatMap((sound) => {
    const media = footage.find(({ id }) => id === sound.footageId);
    return media?.sound === 'ready' ? [{ sound, url: soundUrl(media.id, media.revision) }] : [];
  });
}
