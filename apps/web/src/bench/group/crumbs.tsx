import { ChevronRight, CornerLeftUp } from 'lucide-react';
import { closeHere } from './commands.ts';
import { useProject } from '../../ui/use-session.ts';

/** Says which group is open, above its reel, and leads out again. */
export function Crumbs() {
  const within = useProject((s) => s.within);
  const whole = useProject((s) => s.whole);
  const names = within.map(({ clipId, sourceId }) => whole?.sources.find((s) => s.id === sourceId)?.name ?? clipId);
  return (
    <nav
      aria-label="Open groups"
      className="border-river bg-river-pale/40 flex shrink-0 items-center gap-2 border-b px-3 py-1 text-[13px]"
    >
      <button className="button px-2 py-0.5 text-xs" onClick={closeHere}>
        <CornerLeftUp size={14} aria-hidden /> Close the group
        <kbd className="font-mono text-xs opacity-70">Shift Enter</kbd>
      </button>
      <ol className="flex min-w-0 items-center gap-1">
        <li className="text-faint">Reel</li>
        {names.map((name, i) => (
          <li
            key={within[i]!.sourceId}
            className={`flex items-center gap-1 truncate ${i === names.length - 1 ? 'font-semibold' : 'text-faint'}`}
          >
            <ChevronRight size={13} aria-hidden /> {name}
          </li>
        ))}
      </ol>
      <span className="text-faint ml-auto truncate text-xs">
        What is changed here changes everywhere this group is. Music and cues of the reel lie outside.
      </span>
    </nav>
  );
}
