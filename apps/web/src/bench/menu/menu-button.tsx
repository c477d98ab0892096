import { Ellipsis } from 'lucide-react';
import { openBelow } from './open-menu.ts';
import type { MenuPlace } from '../../session/bench-state.ts';

/** What can be done with a thing, as a right press on it lists it too. */
export const MenuButton = ({ of, label }: { of: MenuPlace; label: string }) => (
  <button
    className="hover:bg-sheet grid size-7 shrink-0 place-items-center rounded-md"
    aria-label={label}
    aria-haspopup="menu"
    data-tip={label}
    onClick={(event) => openBelow(event.currentTarget, of)}
  >
    <Ellipsis size={17} aria-hidden />
  </button>
);
