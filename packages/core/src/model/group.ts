import { array, object, onlyFields, unique } from '../foundation/readers.js';
import { readItem, type ReelItem } from './clip.js';
import { type Cue, readCue } from './cue.js';
import { type RampJoin, readJoins } from './join.js';
import type { SourceFacts } from './source.js';

export type Group = Source & { readonly content: GroupContent };

/** Clips and gaps grouped into one: a small reel with times of its own. */
export interface GroupContent {
  readonly items: readonly ReelItem[];
  readonly cues: readonly Cue[];
  readonly joins: readonly RampJoin[];
}

/**
 * What a clip is of. Footage, as a rule: the media itself is the server's, under the same id. Or clips and gaps in a group: then its
 * frames are those of the reel inside, its rate is the reel's, and its moments are those of the clips inside, where they show.
 */
export interface Source extends SourceFacts {
  /** Only a group has it. */
  readonly content?: GroupContent;
}

export const isGroup = (source: Source): source is Group => source.content !== undefined;

/** The sources of a group's clips. */
export const sourcesInside = ({ content }: Source): string[] =>
  (content?.items ?? []).flatMap((item) => (item.kind === 'clip' ? [item.sourceId] : []));

export function readGroupContent(value: unknown, field: string, sources: readonly SourceFacts[]): GroupContent {
  const content = object(value, field);
  onlyFields(content, ['items', 'cues', 'joins'], field);
  const cues = array(content['cues'], `${field}.cues`).map((c, i) => readCue(c, `${field}.cues[${i}]`, []));
  unique(cues, `${field}.cues`);
  const items = array(content['items'], `${field}.items`, 100_000).map((item, i) =>
    readItem(item, `${field}.items[${i}]`, sources, cues),
  );
  unique(items, `${field}.items`);
  return { items, cues, joins: readJoins(content['joins'], `${field}.joins`, items) };
}
