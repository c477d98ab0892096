import { byId } from '../foundation/by-id.js';
import { InvalidInput } from '../foundation/errors.js';
import { parseProject, type Project } from '../model/project.js';

/**
 * Takes one edit (`from` was made `to` by it) out of a project that others have changed since, and leaves what they did: a three-way merge
 * by item, base `to`, of `from` and `now` (Khanna, Kunal and Pierce, "A Formal Investigation of Diff3", 2007). Redo is the same the other
 * way round. Curves, and whatever else has no id, are changed as wholes. Throws `InvalidInput` naming what both have changed.
 */
export function takeBack(from: Project, to: Project, now: Project): Project {
  if (now === to) return from;
  const merged = merged3({ base: to, ours: from, now, name: 'the project' }) as Project;
  try {
    return parseProject(JSON.parse(JSON.stringify(merged)));
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    // What others did needs what the edit brought, such as a clip its footage.
    throw new InvalidInput('undo', 'what was done in another window since builds on it; undo that there first');
  }
}

interface Three<T = unknown> {
  /** With the edit. */
  readonly base: T;
  /** Without it. */
  readonly ours: T;
  readonly now: T;
  /** What it is of, in words. */
  readonly name: string;
}

type Item = { readonly id: string; readonly name?: unknown };
type Fields = Readonly<Record<string, unknown>>;

/** Objects without an id that are merged field by field. */
const PARTS = ['reel', 'content'];

function merged3({ base, ours, now, name }: Three, key = ''): unknown {
  if (isSame(base, ours)) return now;
  if (isSame(base, now)) return ours;
  if (isSame(ours, now)) return now;
  if (isItems(base) && isItems(ours) && isItems(now)) return mergedItems({ base, ours, now, name });
  const all = [base, ours, now];
  if (all.every(isFields) && (key === '' || PARTS.includes(key) || all.every(isItem)))
    return mergedFields({ base, ours, now, name } as Three<Fields>);
  throw conflict(name);
}

function mergedFields({ base, ours, now, name }: Three<Fields>): Fields {
  const result: Record<string, unknown> = {};
  for (const key of new Set([base, ours, now].flatMap((fields) => Object.keys(fields)))) {
    const inside = key === 'reel' ? 'the reel' : name;
    const value = merged3({ base: base[key], ours: ours[key], now: now[key], name: inside }, key);
    if (value !== undefined) result[key] = value;
  }
  return result;
}

function mergedItems({ base, ours, now, name }: Three<readonly Item[]>): readonly Item[] {
  const [before, after] = [byId(ours), byId(base)];
  const result = now.flatMap((item): Item[] => {
    const [withIt, withoutIt] = [after.get(item.id), before.get(item.id)];
    if (withIt && !withoutIt) {
      if (!isSame(withIt, item)) throw conflict(nameOf(item, name));
      return [];
    }
    if (!withIt && withoutIt && !isSame(withoutIt, item)) throw conflict(nameOf(item, name));
    return withIt && withoutIt
      ? [merged3({ base: withIt, ours: withoutIt, now: item, name: nameOf(item, name) }, 'item') as Item]
      : [item];
  });
  const there = byId(now);
  ours.forEach((item, i) => {
    if (there.has(item.id)) return;
    const was = after.get(item.id);
    if (was) {
      // Somebody else has taken it away since.
      if (!isSame(was, item)) throw conflict(nameOf(item, name));
      return;
    }
    const place = ours.slice(0, i).findLast(({ id }) => result.some((each) => each.id === id));
    result.splice(place ? result.findIndex(({ id }) => id === place.id) + 1 : 0, 0, item);
  });
  return inOrder(result, { base, ours, now, name });
}

/** Items that the edit has moved are where they were before it. */
function inOrder(result: readonly Item[], { base, ours, now, name }: Three<readonly Item[]>): readonly Item[] {
  const lists = [base, ours, now, result].map((list) => new Set(list.map(({ id }) => id)));
  const order = (list: readonly Item[]) => list.map(({ id }) => id).filter((id) => lists.every((each) => each.has(id)));
  const [moved, wanted, here] = [order(base), order(ours), order(now)];
  if (isSame(moved, wanted) || isSame(here, wanted)) return result;
  if (!isSame(moved, here)) throw conflict(name);
  const items = byId(result);
  let next = 0;
  return result.map((item) => (wanted.includes(item.id) ? items.get(wanted[next++]!)! : item));
}

const conflict = (name: string) =>
  new InvalidInput('undo', `${name} was changed in another window since; undo that there first`);

const nameOf = ({ name }: Item, otherwise: string): string =>
  typeof name === 'string' && name !== '' ? `“${name}”` : otherwise;

const isSame = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

const isFields = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const isItem = (value: unknown): value is Item => isFields(value) && typeof value['id'] === 'string';

const isItems = (value: unknown): value is readonly Item[] => Array.isArray(value) && value.every(isItem);
