/** The entries of a list by their ids. Lists are values: each is indexed once. */
export function byId<T extends { readonly id: string }>(list: readonly T[]): ReadonlyMap<string, T> {
  let index = indexes.get(list) as ReadonlyMap<string, T> | undefined;
  if (!index) indexes.set(list, (index = new Map(list.map((entry) => [entry.id, entry]))));
  return index;
}

const indexes = new WeakMap<readonly object[], ReadonlyMap<string, object>>();
