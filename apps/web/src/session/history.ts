import { parseProject } from '@idle-bend/core/model';
import { get, set } from 'idb-keyval';
import type { UndoHistory, UndoStep, UndoSteps } from './document-store.ts';

interface Kept extends UndoSteps {
  /** The server's version of the document it belongs to; with any other it is worth nothing. */
  readonly version: number;
}

/** How many steps either way are kept for after a reload. */
const MAX_KEPT = 100;

const keyOf = (projectId: string) => `history ${projectId}`;
const NO_STEPS: UndoSteps = { past: [], future: [] };

const readStep = ({ before, after }: UndoStep): UndoStep => ({
  before: parseProject(before),
  after: parseProject(after),
});

/** Keeps what undo and redo need in this browser. Where it has no room or no storage, undo ends at the reload; nothing else is lost. */
export const browserHistory: UndoHistory = {
  async remember(projectId, { version, past, future }) {
    const kept: Kept = { version, past: past.slice(-MAX_KEPT), future: future.slice(0, MAX_KEPT) };
    await set(keyOf(projectId), kept).catch(() => undefined);
  },
  /** The steps that lead to exactly this version of the document; none when it was changed elsewhere since. */
  async recall(projectId, version) {
    try {
      const kept = await get<Kept>(keyOf(projectId));
      if (kept?.version !== version) return NO_STEPS;
      return { past: kept.past.map(readStep), future: kept.future.map(readStep) };
    } catch {
      return NO_STEPS;
    }
  },
};
