import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

type Names = Readonly<Record<string, string>>;

const SOUND: Names = {
  start: 'startSeconds',
  from: 'fromSeconds',
  to: 'toSeconds',
  gain: 'gainDb',
  fadeIn: 'fadeInSeconds',
  fadeOut: 'fadeOutSeconds',
};
const CLIP_SOUND: Names = { gain: 'gainDb', fadeIn: 'fadeInSeconds', fadeOut: 'fadeOutSeconds' };
const WHOOSH: Names = { gain: 'gainDb' };
const JOIN: Names = { replaced: 'undo' };
const UNDO: Names = { was: 'original', made: 'ramped', from: 'startFrames' };
const TUNED: Names = { temper: 'tuning' };
const SOURCE: Names = { skips: 'droppedRepeats', bound: 'content' };

/** Version 9 has units in its names, and says `tuning`, `droppedRepeats`, `content` and `undo`. */
export const toVersion9: Migration = (document) => {
  const reel = object(document['reel'], 'reel');
  return {
    ...document,
    sources: array(document['sources'], 'sources').map((value, i) => {
      const source = renamed(value, SOURCE, `sources[${i}]`);
      return 'content' in source ? { ...source, content: ofItems(source['content'], `sources[${i}].content`) } : source;
    }),
    reel: {
      ...ofItems(renamed(reel, TUNED, 'reel'), 'reel'),
      sounds: array(reel['sounds'], 'reel.sounds').map((sound, i) => renamed(sound, SOUND, `reel.sounds[${i}]`)),
    },
  };
};

/** A reel, or what a group holds, with its clips and joins as this version names their fields. */
function ofItems(value: unknown, field: string): Record<string, unknown> {
  const holder = object(value, field);
  return {
    ...holder,
    items: array(holder['items'], `${field}.items`, 100_000).map((entry, i) => {
      const at = `${field}.items[${i}]`;
      const item = renamed(entry, TUNED, at);
      return item['kind'] === 'clip' ? { ...item, sound: renamed(item['sound'], CLIP_SOUND, `${at}.sound`) } : item;
    }),
    joins: array(holder['joins'], `${field}.joins`, 100_000).map((entry, i) => {
      const at = `${field}.joins[${i}]`;
      const join = renamed(entry, JOIN, at);
      const undo = object(join['undo'], `${at}.replaced`);
      return {
        ...join,
        whoosh: join['whoosh'] ? renamed(join['whoosh'], WHOOSH, `${at}.whoosh`) : null,
        undo: {
          before: renamed(undo['before'], UNDO, `${at}.replaced.before`),
          after: renamed(undo['after'], UNDO, `${at}.replaced.after`),
        },
      };
    }),
  };
}

function renamed(value: unknown, names: Names, field: string): Record<string, unknown> {
  return Object.fromEntries(Object.entries(object(value, field)).map(([name, entry]) => [names[name] ?? name, entry]));
}
