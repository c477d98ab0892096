import { tell } from '../session/notices.ts';

/** Footage of the open project whose frames are not counted yet, by id, and what it is called. */
export const estimates: { open: ReadonlyMap<string, string> } = { open: new Map() };

/** Whether frames of some footage are still being counted; then it is said what has to wait for that. */
export function waitForCount(footageIds: Iterable<string>, what: string): boolean {
  const waiting = [...footageIds].find((id) => estimates.open.has(id));
  if (waiting === undefined) return false;
  tell(`The frames of "${estimates.open.get(waiting)}" are still being counted; ${what} when they are.`, {
    id: 'counting',
  });
  return true;
}
