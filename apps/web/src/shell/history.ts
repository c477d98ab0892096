import { parseProject, type Project } from '@idle-bend/core/model';
import { get, set } from 'idb-keyval';

export interface History {
  /** The server's version of the document it belongs to; with any other it is worth nothing. */
  readonly version: number;
  readonly past: readonly Project[];
  readonly future: readonly Project[];
}

/** How many steps either way are kept for after a reload. */
const MAX_KEPT = 100;

const keyOf = (projectId: string) => `history ${projectId}`;

/** Keeps what undo and redo need in this browser. Where it has no room or no storage, undo ends at the reload; nothing else is lost. */
export async function rememberHistory(projectId: string, { version, past, future }: History): Promise<void> {
  await set(keyOf(projectId), { version, past: past.slice(-MAX_KEPT), future: future.slice(0, MAX_KEPT) }).catch(
    () => undefined,
  );
}

/** The steps that lead to exactly this version of the document; none when it was changed elsewhere since. */
export async function recallHistory(projectId: string, version: number): Promise<Pick<History, 'past' | 'future'>> {
  const none = { past: [], future: [] };
  try {
    const kept = await get<History>(keyOf(projectId));
    if (kept?.version !== version) return none;
    return { past: kept.past.map(parseProject), future: kept.future.map(parseProject) };
  } catch {
    return none;
  }
}
