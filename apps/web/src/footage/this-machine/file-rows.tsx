import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp, AudioLines } from 'lucide-react';
import { useRef } from 'react';
import { mediaPictureUrl } from '../../api.ts';
import { Check } from '../../ui/check.tsx';
import { sizeText } from '../../ui/size-text.ts';
import { type Arrangement, type Column, type ListedFile, shortRate } from './arrange-files.ts';

const ROW = 52;
/** Rows in sight, at most. */
const ROWS_SHOWN = 7;
const GRID = 'grid grid-cols-[28px_76px_minmax(0,1fr)_84px_76px_104px_76px_80px] items-center gap-2 px-4';

const COLUMNS: readonly { readonly by: Column; readonly text: string }[] = [
  { by: 'name', text: 'Name' },
  { by: 'rate', text: 'Rate' },
  { by: 'length', text: 'Length' },
  { by: 'size', text: 'Picture' },
  { by: 'codec', text: 'Codec' },
  { by: 'bytes', text: 'Size' },
];

/** The files of a folder; only rows in sight are there, so that a thousand are as quick as ten. */
export function FileRows({
  rootId,
  path,
  files,
  picked,
  used,
  arrangement,
  arrange,
  pick,
  take,
  empty,
}: {
  rootId: string;
  path: string;
  files: readonly ListedFile[];
  picked: readonly string[];
  /** Paths of files that are footage of the project already. */
  used: ReadonlySet<string>;
  arrangement: Arrangement;
  arrange: (by: Column) => void;
  /** A press on a row, which may extend what is picked. */
  pick: (name: string, isExtending: boolean) => void;
  take: (name: string) => void;
  empty: string;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: files.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 4,
  });
  if (files.length === 0) return <p className="text-faint px-4 pb-4">{empty}</p>;
  return (
    <div role="table" aria-label="Files" aria-rowcount={files.length + 1}>
      <div role="row" aria-rowindex={1} className={`${GRID} border-line border-y py-1`}>
        <span role="columnheader" className="col-span-2" aria-label="Pick, picture" />
        {COLUMNS.map(({ by, text }) => {
          const isSorted = arrangement.by === by;
          const way = arrangement.descending ? 'descending' : 'ascending';
          const Arrow = arrangement.descending ? ArrowDown : ArrowUp;
          return (
            <span key={by} role="columnheader" aria-sort={isSorted ? way : 'none'}>
              <button
                className="text-faint flex min-h-6 items-center gap-1 text-xs font-semibold"
                onClick={() => arrange(by)}
              >
                {text}
                {isSorted && <Arrow size={12} aria-hidden />}
              </button>
            </span>
          );
        })}
      </div>
      <div ref={scroller} className="overflow-y-auto" style={{ height: Math.min(files.length, ROWS_SHOWN) * ROW }}>
        <div role="rowgroup" className="relative" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const file = files[index]!;
            const place = path === '' ? file.name : `${path}/${file.name}`;
            return (
              <div
                key={file.name}
                role="row"
                aria-rowindex={index + 2}
                aria-label={file.name}
                className={`${GRID} absolute inset-x-0 select-none ${picked.includes(file.name) ? 'bg-river-pale' : 'hover:bg-river-pale/40'}`}
                style={{ height: ROW, transform: `translateY(${start}px)` }}
                onClick={({ shiftKey }) => pick(file.name, shiftKey)}
                onDoubleClick={() => take(file.name)}
              >
                <FileCells
                  {...{ file, isPicked: picked.includes(file.name), isUsed: used.has(place) }}
                  picture={mediaPictureUrl(rootId, place, file.modifiedMs)}
                />
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function FileCells({
  file,
  isPicked,
  isUsed,
  picture,
}: {
  file: ListedFile;
  isPicked: boolean;
  isUsed: boolean;
  picture: string;
}) {
  const { name, bytes, facts } = file;
  const problem = facts && 'problem' in facts ? facts.problem : undefined;
  const known = facts && !('problem' in facts) ? facts : undefined;
  const film = known?.picture;
  const cell = 'font-mono text-xs';
  return (
    <>
      <span role="cell">
        {/* A press on it, by key too, is one on its row. */}
        <Check label={`Pick ${name}`} hidden checked={isPicked} set={() => undefined} />
      </span>
      <span role="cell" className="bg-frame grid h-10 w-[72px] place-items-center overflow-hidden rounded">
        {film && <img src={picture} alt="" loading="lazy" className="h-full w-full object-contain" draggable={false} />}
        {known && !film && <AudioLines size={18} className="text-white/60" aria-hidden />}
      </span>
      <span role="cell" className="min-w-0">
        <span className="block truncate text-sm font-semibold">{name}</span>
        {isUsed && <span className="text-river block text-xs">in this project</span>}
        {problem && <span className="text-vermilion block truncate text-xs">{problem}</span>}
      </span>
      <span role="cell" className={cell}>
        {film ? `${shortRate(film.framesPerSecond)} fps` : known ? 'sound' : '…'}
      </span>
      <span role="cell" className={cell}>
        {typeof known?.seconds === 'number' ? lengthText(known.seconds) : ''}
      </span>
      <span role="cell" className={cell}>
        {film ? `${film.width}×${film.height}` : ''}
      </span>
      <span role="cell" className={cell}>
        {known?.codec ?? ''}
      </span>
      <span role="cell" className={cell}>
        {sizeText(bytes)}
      </span>
    </>
  );
}

/** 3.50 s; from a minute on 12:04. */
function lengthText(seconds: number): string {
  if (seconds < 60) return `${seconds.toFixed(2)} s`;
  const whole = Math.round(seconds);
  const two = (n: number) => String(n).padStart(2, '0');
  const [hours, minutes] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60];
  return hours > 0 ? `${hours}:${two(minutes)}:${two(whole % 60)}` : `${minutes}:${two(whole % 60)}`;
}
