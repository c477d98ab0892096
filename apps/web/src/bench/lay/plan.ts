import type { HeardSound } from '@idle-bend/core/api';
import { beatStrengths } from '@idle-bend/core/beats';
import { clipsToLay, lengthsFor, type EachLength, type LayChoice, type LayPlan } from '@idle-bend/core/lay';
import type { Project, Sound } from '@idle-bend/core/model';
import { useEffect, useState } from 'react';
import { create } from 'zustand';
import { solve } from '../landing/solving.ts';
import { benchClips, benchStore, type BenchClip } from '../../session/bench-state.ts';

/** How clips are to be laid on the music, as the editor says; clips whose length was decided by hand. */
interface LayState {
  readonly each: EachLength;
  readonly onBars: boolean;
  readonly slowest: number;
  readonly fastest: number;
  readonly kept: Readonly<Record<string, number>>;
  /** The likeliest hit of clips without a moment is marked, so that they land too. */
  readonly marks: boolean;
}

export const useLay = create<LayState>(() => ({
  each: 'choose',
  onBars: true,
  slowest: 0.25,
  fastest: 4,
  kept: {},
  marks: true,
}));

/** The clips a plan is for. */
export function benchClipsToLay(bench: BenchClip): readonly BenchClip[] {
  const ids = clipsToLay(bench.project, bench.clip.id, benchStore.getState().picked);
  return benchClips(bench.project).filter(({ clip }) => ids.includes(clip.id));
}

export function layChoice(
  sound: Sound,
  heard: HeardSound | undefined,
  { each, onBars, slowest, fastest, kept }: LayState,
): LayChoice {
  const strengths = sound.beats && heard ? beatStrengths(sound.beats, heard.onsets) : undefined;
  return {
    soundId: sound.id,
    lengths: lengthsFor(each, sound.beats?.bar.beats ?? 4),
    limits: { slowest, fastest },
    onBars,
    kept,
    ...(strengths && { strengths }),
  };
}

export interface Planned {
  readonly plan: LayPlan | undefined;
  readonly problem: string | undefined;
  /** The plan is for what was asked before; the one for what is asked now is being worked out. */
  readonly waiting: boolean;
}

/** The plan for these clips, worked out on the solving thread. */
export function usePlan(project: Project, clips: readonly BenchClip[], choice: LayChoice): Planned {
  const { items, sounds } = project.reel;
  // Of the project only clips, sources and sounds matter: while those stay, so does the question.
  const asked = [items, sounds, project.sources, clips, choice] as const;
  const [found, setFound] = useState<{
    readonly of: typeof asked;
    readonly plan: LayPlan | undefined;
    readonly problem: string | undefined;
  }>();
  useEffect(() => {
    let stale = false;
    const clipIds = clips.map(({ clip }) => clip.id);
    void solve({ kind: 'lay', project, clipIds, choice }).then(({ plan, problem }) => {
      if (!stale) setFound({ of: asked, plan, problem });
    });
    return () => {
      stale = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is asked is listed once
  }, asked);
  return { plan: found?.plan, problem: found?.problem, waiting: !asked.every((part, i) => part === found?.of[i]) };
}
