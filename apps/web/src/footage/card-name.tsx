import { useMutation } from '@tanstack/react-query';
import type { Footage } from '@idle-bend/core/api';
import { renameSource } from '@idle-bend/core/edit';
import { useState, type KeyboardEvent } from 'react';
import { api } from '../api.ts';
import { edit, projectStore } from '../session/session.ts';
import { tellError } from '../session/notices.ts';

/** The footage's name; a press on it renames it. */
export function CardName({ footage }: { footage: Footage }) {
  const [typed, setTyped] = useState<string>();
  const rename = useMutation({
    mutationFn: (name: string) => api.renameFootage(footage.id, name),
    onError: (e) => tellError(e.message),
  });
  const take = () => {
    const name = typed?.trim();
    setTyped(undefined);
    if (!name || name === footage.name) return;
    rename.mutate(name);
    if (projectStore.getState().document?.sources.some((s) => s.id === footage.id))
      edit((p) => renameSource(p, footage.id, name.replace(/\.\w+$/, '')));
  };
  const onKey = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') event.currentTarget.blur();
    if (event.key === 'Escape') setTyped(undefined);
  };
  if (typed === undefined)
    return (
      <h2 className="font-display text-base font-semibold break-all">
        <button className="text-left hover:underline" data-tip="Rename" onClick={() => setTyped(footage.name)}>
          {footage.name}
        </button>
      </h2>
    );
  return (
    <input
      className="field"
      aria-label={`New name of ${footage.name}`}
      autoFocus
      value={typed}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={take}
      onKeyDown={onKey}
    />
  );
}
