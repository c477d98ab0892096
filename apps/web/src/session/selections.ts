import { removeCue, removeItem, removeMoment, removeSound, updateClip, withMap } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { joinAfter } from '@idle-bend/core/reel';
import { removeVertex } from '@idle-bend/core/time-map';
import type { BenchClip } from './bench-clip.ts';

/** What can be selected on the bench. */
export type Selection =
  | { readonly kind: 'clip' }
  /** The stretch between the in and the out point. */
  | { readonly kind: 'range' }
  | { readonly kind: 'reach'; readonly index: number }
  /** An interior vertex is where a bend sits; the first and the last are the clip's ends. */
  | { readonly kind: 'vertex'; readonly index: number }
  | { readonly kind: 'moment'; readonly id: string }
  | { readonly kind: 'cue'; readonly id: string }
  | { readonly kind: 'sound'; readonly id: string }
  | { readonly kind: 'gap'; readonly id: string }
  /** All landings of the reel. */
  | { readonly kind: 'landings' }
  /** The reel itself. */
  | { readonly kind: 'reel' }
  /** Accents; the set that is open. */
  | { readonly kind: 'accents'; readonly id: string | undefined }
  /** How the clip of this id races into the one after it. */
  | { readonly kind: 'join'; readonly id: string }
  /** A plan to lay clips on the music. */
  | { readonly kind: 'lay' };

export type SelectionOf<Kind extends Selection['kind']> = Extract<Selection, { kind: Kind }>;

/** How a kind of selection behaves; its panel is in `panels/selection-panel.tsx`. */
interface SelectionKind<S extends Selection> {
  /** It belongs to the reel: it stays selected when another clip comes to the bench. */
  readonly ofReel?: boolean;
  /** Whether what it names is still there; `range` is the picked stretch of the clip. */
  isThere(selection: S, bench: BenchClip, range: { readonly from: number; readonly to: number } | undefined): boolean;
  /** The project without it. Throws `InvalidInput`. */
  remove?(project: Project, selection: S, bench: BenchClip): Project;
}

const always = () => true;
const has = (list: readonly { readonly id: string }[], id: string) => list.some((one) => one.id === id);

/** To add a kind: above, here, and its panel. */
const SELECTIONS: { readonly [Kind in Selection['kind']]: SelectionKind<SelectionOf<Kind>> } = {
  clip: { isThere: always },
  range: { isThere: (_, __, range) => range !== undefined },
  reach: { isThere: ({ index }, { clip }) => index < clip.map.vertices.length - 1 },
  vertex: {
    isThere: ({ index }, { clip }) => index < clip.map.vertices.length,
    remove: (project, { index }, { clip: { id } }) =>
      updateClip(project, id, (clip) => withMap(clip, removeVertex(clip.map, index))),
  },
  moment: {
    isThere: ({ id }, { source }) => has(source.moments, id),
    remove: (project, { id }, { source }) => removeMoment(project, source.id, id),
  },
  cue: {
    ofReel: true,
    isThere: ({ id }, { project }) => has(project.reel.cues, id),
    remove: (project, { id }) => removeCue(project, id),
  },
  sound: {
    ofReel: true,
    isThere: ({ id }, { project }) => has(project.reel.sounds, id),
    remove: (project, { id }) => removeSound(project, id),
  },
  gap: {
    ofReel: true,
    isThere: ({ id }, { project }) => project.reel.items.some((item) => item.kind === 'gap' && item.id === id),
    remove: (project, { id }) => removeItem(project, id),
  },
  join: { ofReel: true, isThere: ({ id }, { project }) => joinAfter(project, id) !== undefined },
  accents: { ofReel: true, isThere: always },
  landings: { ofReel: true, isThere: always },
  reel: { ofReel: true, isThere: always },
  lay: { ofReel: true, isThere: always },
};

/** The behaviour of a selection, for those who do not care which kind it is. */
export const kindOf = ({ kind }: Selection) => SELECTIONS[kind] as SelectionKind<Selection>;
