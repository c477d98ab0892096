import type { MediaRoot } from '@idle-bend/core/api';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api.ts';

const NONE: readonly MediaRoot[] = [];

/** The media folders of the server's machine; none where it was started without any. */
export function useMediaRoots(): readonly MediaRoot[] {
  const { data } = useQuery({
    queryKey: ['media-roots'],
    queryFn: api.mediaRoots,
    // A disk may come and go.
    refetchInterval: (query) => ((query.state.data?.length ?? 0) > 0 ? 5000 : false),
  });
  return data ?? NONE;
}
