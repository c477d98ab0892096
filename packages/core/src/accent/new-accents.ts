import { type AccentKind, LOOKS } from '../look/looks.js';
import type { AccentHits, AccentPlaces, AccentSet } from '../model/accent.js';
import type { Project } from '../model/project.js';
import { placeItems, reelFrames } from '../reel/places.js';

export const HIT_WORDS: Readonly<Record<AccentHits, string>> = {
  beats: 'beats',
  bars: 'first beats of bars',
  low: 'drums',
  mid: 'snares',
  high: 'hats',
};

/** As a set is called: flash on hats, every second. */
export function accentsName({ look, on }: Pick<AccentSet, 'look' | 'on'>): string {
  if (on.kind === 'cues') return `${look.kind} on cues`;
  if (on.kind === 'cuts') return `${look.kind} at cuts`;
  if (on.kind === 'range') return look.kind;
  return `${look.kind} on ${HIT_WORDS[on.of]}${on.every > 1 ? `, 1 in ${on.every}` : ''}`;
}

/** A new set, where it most likely belongs: a push at all cuts, anything else on the music, without music on the cues. */
export function newAccents(project: Project, kind: AccentKind, id: string): AccentSet {
  const set = { id, look: LOOKS[kind].initial, strength: 1, on: likelyPlaces(project, kind) };
  return { ...set, name: accentsName(set) };
}

function likelyPlaces(project: Project, kind: AccentKind): AccentPlaces {
  if (LOOKS[kind].sustained)
    return { kind: 'range', ...(project.reel.range ?? { from: 0, to: Math.max(1, reelFrames(project)) }) };
  if (LOOKS[kind].acrossCuts) return { kind: 'cuts', clipIds: clipsAfterCuts(project) };
  const [sound] = project.reel.sounds;
  if (!sound) return { kind: 'cues', cueIds: project.reel.cues.map((cue) => cue.id) };
  return {
    ...{ kind: 'music', soundId: sound.id, of: 'bars', every: 1, first: 0, least: 0 },
    ...{ from: null, to: null, hits: [], without: [] },
  };
}

/** The clips that begin at a cut. */
export const clipsAfterCuts = (project: Project): string[] =>
  placeItems(project).flatMap(({ item, start }) => (item.kind === 'clip' && start > 0 ? [item.id] : []));
