import { useQueries } from '@tanstack/react-query';
import { useMemo } from 'react';

interface Asked<T> {
  readonly id: string;
  readonly queryKey: readonly unknown[];
  readonly queryFn: () => Promise<T>;
}

const dataOf = <T>(results: readonly { readonly data: T | undefined }[]) => results.map(({ data }) => data);

/** What is known of several things, by their ids; what does not change is asked once. The same map while nothing else becomes known. */
export function useKnown<T>(asked: readonly Asked<T>[]): ReadonlyMap<string, T> {
  const queries = asked.map(({ queryKey, queryFn }) => ({ queryKey, queryFn, staleTime: Infinity }));
  const known = useQueries({ queries, combine: dataOf<T> });
  const ids = asked.map(({ id }) => id).join(' ');
  return useMemo(
    () =>
      new Map(
        ids.split(' ').flatMap((id, i): [string, T][] => {
          const data = known[i];
          return data === undefined ? [] : [[id, data]];
        }),
      ),
    [ids, known],
  );
}
