import type { Footage, MediaRoot } from '@idle-bend/core/api';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { ChevronRight, Folder, HardDrive, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { api } from '../../api.ts';
import { tell, tellError, tellWarning } from '../../session/notices.ts';
import { Select } from '../../ui/select.tsx';
import { arrangeFiles, pickedWith, type Arrangement } from './arrange-files.ts';
import { FileRows } from './file-rows.tsx';
import { useFolder } from './use-folder.ts';

const LEAST_RATES = [
  { value: '0', text: 'any rate' },
  { value: '48', text: '48 fps and up' },
  { value: '60', text: '60 fps and up' },
  { value: '100', text: '100 fps and up' },
];

/** So many files are asked for at a time. */
const TOGETHER = 1000;
/** Of more than so many it is said how far that is. */
const MANY = 100;

/** The media folders of the server's machine: footage is picked from them and used where it lies. */
export default function ThisMachine({
  projectId,
  roots,
  footage,
  close,
}: {
  projectId: string;
  roots: readonly MediaRoot[];
  footage: readonly Footage[];
  close: () => void;
}) {
  const [rootId, setRootId] = useState(roots[0]!.id);
  const [path, setPath] = useState('');
  const [picked, setPicked] = useState<readonly string[]>([]);
  const [arrangement, setArrangement] = useState<Arrangement>({
    ...{ by: 'name', descending: false, sought: '', leastRate: 0 },
  });
  const root = roots.find(({ id }) => id === rootId) ?? roots[0]!;
  const { folders, files, error, isPending } = useFolder(root.id, path);
  const shown = useMemo(() => arrangeFiles(files, arrangement), [files, arrangement]);
  const go = (to: string, id = rootId) => {
    setRootId(id);
    setPath(to);
    setPicked([]);
  };
  const chosen = shown.filter(({ name }) => picked.includes(name));
  const used = useMemo(
    () => new Set(footage.flatMap(({ lies }) => (lies?.root === root.name ? [lies.path] : []))),
    [footage, root.name],
  );
  const queries = useQueryClient();
  const placeOf = (name: string) => (path === '' ? name : `${path}/${name}`);
  const take = useMutation({
    mutationFn: async (paths: readonly string[]) => {
      const all = { taken: [] as Footage[], problems: [] as string[] };
      for (let done = 0; done < paths.length; done += TOGETHER) {
        const { taken, problems } = await api.takeReferences(projectId, root.id, paths.slice(done, done + TOGETHER));
        all.taken.push(...taken);
        all.problems.push(...problems);
      }
      return all;
    },
    onSuccess: ({ taken, problems }) => {
      if (taken.length > 0)
        tell(taken.length === 1 ? `${taken[0]!.name} is footage now.` : `${taken.length} files are footage now.`);
      if (problems.length > 0)
        tellWarning(
          problems.length === 1 ? problems[0]! : `${problems.length} files could not be taken: ${problems[0]}`,
          {
            durationMs: 15_000,
          },
        );
      setPicked([]);
      void queries.invalidateQueries({ queryKey: ['footage', projectId] });
    },
    onError: (e) => tellError(e.message),
  });
  const asked = take.isPending ? take.variables : [];
  const howFar = asked.length > MANY ? `, ${asked.filter((each) => used.has(each)).length} of ${asked.length}` : '';
  return (
    <section aria-label="This machine" className="border-line bg-sheet mb-5 overflow-hidden rounded-xl border">
      <header className="border-line flex flex-wrap items-center gap-2 border-b px-4 py-2.5">
        <HardDrive size={17} aria-hidden className="text-river" />
        <h2 className="font-display font-semibold">This machine</h2>
        <nav aria-label="Folder" className="flex min-w-0 items-center gap-1">
          {roots.length > 1 ? (
            <Select
              label="Media folder"
              place="hidden"
              className="w-auto"
              value={root.id}
              options={roots.map(({ id, name }) => ({ value: id, text: name }))}
              choose={(id) => go('', id)}
            />
          ) : (
            <button className="button border-transparent px-1.5" onClick={() => go('')}>
              {root.name}
            </button>
          )}
          {path !== '' &&
            path.split('/').map((part, i, all) => (
              <span key={all.slice(0, i + 1).join('/')} className="flex min-w-0 items-center gap-1">
                <ChevronRight size={14} aria-hidden className="text-faint" />
                <button
                  className="button truncate border-transparent px-1.5"
                  onClick={() => go(all.slice(0, i + 1).join('/'))}
                >
                  {part}
                </button>
              </span>
            ))}
        </nav>
        <p className="text-faint text-sm max-lg:hidden">Files stay where they are; nothing is copied.</p>
        <button className="button ml-auto px-2" aria-label="Close this machine’s folders" onClick={close}>
          <X size={15} aria-hidden />
        </button>
      </header>
      <div className="flex flex-wrap items-center gap-3 px-4 py-2.5">
        <input
          className="field max-w-56 font-sans"
          type="search"
          aria-label="Search this folder"
          placeholder="Search by name or rate"
          value={arrangement.sought}
          onChange={(e) => setArrangement({ ...arrangement, sought: e.target.value })}
        />
        <Select
          label="Show"
          place="before"
          className="w-auto"
          value={String(arrangement.leastRate)}
          options={LEAST_RATES}
          choose={(value) => setArrangement({ ...arrangement, leastRate: Number(value) })}
        />
        <span className="text-faint font-mono text-xs">
          {shown.length === files.length ? `${files.length} files` : `${shown.length} of ${files.length} files`}
        </span>
        <span className="ml-auto flex items-center gap-2">
          <button
            className="button"
            disabled={shown.length === 0}
            onClick={() => setPicked(chosen.length === shown.length ? [] : shown.map(({ name }) => name))}
          >
            {chosen.length === shown.length && shown.length > 0 ? 'Pick none of them' : 'Pick all of them'}
          </button>
          <button
            className="button button-ink"
            disabled={chosen.length === 0 || take.isPending}
            onClick={() => take.mutate(chosen.map(({ name }) => placeOf(name)))}
          >
            {take.isPending ? `Looking into them${howFar}…` : takeWords(chosen.length)}
          </button>
        </span>
      </div>
      {folders.length > 0 && (
        <ul aria-label="Folders" className="flex flex-wrap gap-2 px-4 pb-2.5">
          {folders.map((name) => (
            <li key={name}>
              <button className="button" onClick={() => go(path === '' ? name : `${path}/${name}`)}>
                <Folder size={15} aria-hidden /> {name}
              </button>
            </li>
          ))}
        </ul>
      )}
      {error || !root.isHere ? (
        <p className="text-vermilion px-4 pb-4">
          {root.isHere ? error?.message : `${root.name} is not there now. Its files come back with it.`}
        </p>
      ) : (
        <FileRows
          {...{ rootId: root.id, path, arrangement, picked, used }}
          files={shown}
          arrange={(by) =>
            setArrangement({ ...arrangement, by, descending: arrangement.by === by && !arrangement.descending })
          }
          pick={(name, isExtending) =>
            setPicked((before) =>
              pickedWith(
                before,
                shown.map((file) => file.name),
                name,
                isExtending,
              ),
            )
          }
          take={(name) => take.mutate([placeOf(name)])}
          empty={isPending ? 'Looking…' : files.length > 0 ? 'No matches.' : 'No footage right in this folder.'}
        />
      )}
    </section>
  );
}

const takeWords = (count: number) =>
  count === 0 ? 'Use as footage' : count === 1 ? 'Use one as footage' : `Use ${count} as footage`;
