import { array, finite, object, oneOf, onlyFields, readId, unique } from '../project/read.js';
import { readMap } from '../project/read-map.js';
import { readWhoosh } from '../warp/whoosh.js';
import { InvalidInput } from '../errors.js';
import { readBlur } from '../blur/blur.js';
import { checkEase } from '../time-map/ease.js';
import { mapDuration } from '../time-map/time-map.js';
import { checkJoin, JOIN_KEEPS, type Join, type Replaced } from './join-choice.js';

/** Reads the joins of a reel from a document; `items` are the ids on it. Throws `InvalidInput` naming the place. */
export function readJoins(value: unknown, field: string, items: readonly { readonly id: string }[]): Join[] {
  const joins = array(value, field, 100_000).map((join, i) => readJoin(join, `${field}[${i}]`));
  unique(joins, field);
  joins.forEach(({ before, after }, i) => {
    for (const [name, id] of Object.entries({ before, after }))
      if (!items.some((item) => item.id === id))
        throw new InvalidInput(`${field}[${i}].${name}`, `"${id}" is not on the reel`);
  });
  return joins;
}

function readJoin(value: unknown, field: string): Join {
  const j = object(value, field);
  onlyFields(
    j,
    [
      'id',
      'before',
      'after',
      'into',
      'outOf',
      'hold',
      'peak',
      'ease',
      'keeps',
      'spare',
      'matched',
      'blur',
      'whoosh',
      'replaced',
    ],
    field,
  );
  const number = (name: string) => finite(j[name], `${field}.${name}`);
  const replaced = object(j['replaced'], `${field}.replaced`);
  onlyFields(replaced, ['before', 'after'], `${field}.replaced`);
  const join: Join = {
    id: readId(j['id'], `${field}.id`),
    before: readId(j['before'], `${field}.before`),
    after: readId(j['after'], `${field}.after`),
    into: number('into'),
    outOf: number('outOf'),
    hold: number('hold'),
    peak: number('peak'),
    ease: checkEase(j['ease'], `${field}.ease`),
    keeps: oneOf(j['keeps'], JOIN_KEEPS, `${field}.keeps`),
    spare: number('spare'),
    matched: j['matched'] === null ? null : number('matched'),
    blur: j['blur'] === null ? null : readBlur(j['blur'], `${field}.blur`),
    whoosh: j['whoosh'] === null ? null : readWhoosh(j['whoosh'], `${field}.whoosh`),
    replaced: {
      before: readReplaced(replaced['before'], `${field}.replaced.before`),
      after: readReplaced(replaced['after'], `${field}.replaced.after`),
    },
  };
  checkJoin(join, field);
  return join;
}

function readReplaced(value: unknown, field: string): Replaced {
  const replaced = object(value, field);
  onlyFields(replaced, ['was', 'made', 'from', 'slowed'], field);
  const [from, slowed] = [finite(replaced['from'], `${field}.from`), finite(replaced['slowed'], `${field}.slowed`)];
  if (!(slowed > 0 && slowed <= 1)) throw new InvalidInput(`${field}.slowed`, 'must lie above 0 and up to 1');
  const was = readMap(replaced['was'], `${field}.was`);
  if (!(from > 0 && from < mapDuration(was)))
    throw new InvalidInput(`${field}.from`, 'must lie inside the curve that was');
  return { was, made: readMap(replaced['made'], `${field}.made`), from, slowed };
}
