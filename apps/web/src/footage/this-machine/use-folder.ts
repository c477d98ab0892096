import type { MediaFileFacts } from '@idle-bend/core/api';
import { useQueries, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api } from '../../api.ts';
import type { ListedFile } from './arrange-files.ts';

/** Files whose facts are asked for together: few enough that the first are there soon. */
const TOGETHER = 200;

const pathIn = (folder: string, name: string) => (folder === '' ? name : `${folder}/${name}`);

/** A folder of a media root: what is in it, and what is known of its files as that comes. */
export function useFolder(root: string, path: string) {
  const { data, error, isPending } = useQuery({
    queryKey: ['media-folder', root, path],
    queryFn: () => api.mediaFolder(root, path),
    // Files are put there while it is looked at.
    refetchInterval: 5000,
  });
  const parts = useMemo(() => {
    const files = data?.files ?? [];
    return Array.from({ length: Math.ceil(files.length / TOGETHER) }, (_, i) =>
      files.slice(i * TOGETHER, (i + 1) * TOGETHER),
    );
  }, [data]);
  const facts = useQueries({
    queries: parts.map((files) => ({
      queryKey: ['media-facts', root, path, files.map(({ name, modifiedMs }) => `${name} ${modifiedMs}`).join('|')],
      queryFn: () =>
        api.mediaFacts(
          root,
          files.map(({ name }) => pathIn(path, name)),
        ),
      staleTime: Infinity,
    })),
    combine: (results) =>
      Object.assign({}, ...results.map((result) => result.data ?? {})) as Record<string, MediaFileFacts>,
  });
  const files = useMemo(
    () => (data?.files ?? []).map((file): ListedFile => ({ ...file, facts: facts[pathIn(path, file.name)] })),
    [data, facts, path],
  );
  return { folders: data?.folders ?? [], files, error, isPending };
}
