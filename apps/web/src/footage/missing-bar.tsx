import type { Footage } from '@idle-bend/core/api';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { FolderSearch } from 'lucide-react';
import { api } from '../api.ts';
import { tell, tellError, tellWarning } from '../session/notices.ts';

/** Where files are missing: how many, and a search for all of them in the media folders. */
export function MissingBar({
  footage,
  projectId,
  canSearch,
}: {
  footage: readonly Footage[];
  projectId: string;
  canSearch: boolean;
}) {
  const missing = footage.filter((each) => each.missing);
  const queries = useQueryClient();
  const search = useMutation({
    mutationFn: () => api.searchReferences(projectId),
    onSuccess: (found) => {
      if (found.length === 0) tellWarning('None of the missing files is in the media folders.');
      else tell(found.length === 1 ? `${found[0]!.name} was found.` : `${found.length} files were found.`);
      void queries.invalidateQueries({ queryKey: ['footage', projectId] });
    },
    onError: (e) => tellError(e.message),
  });
  if (missing.length === 0) return null;
  return (
    <div role="status" className="border-vermilion mb-4 flex flex-wrap items-center gap-3 rounded-xl border px-4 py-2">
      <span className="font-semibold">
        {missing.length === 1 ? `The file of ${missing[0]!.name} is missing.` : `${missing.length} files are missing.`}
      </span>
      <span className="text-faint text-sm">
        What was made of {missing.length === 1 ? 'it' : 'them'} can still be played, but not rendered.
      </span>
      {canSearch && (
        <button className="button ml-auto" disabled={search.isPending} onClick={() => search.mutate()}>
          <FolderSearch size={15} aria-hidden />
          {search.isPending ? 'Looking…' : 'Look in the media folders'}
        </button>
      )}
    </div>
  );
}
