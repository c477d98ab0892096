import type { OpenedProject } from '@idle-bend/core/api';
import { reconcileReel } from '@idle-bend/core/edit';
import { insideGroup, withInside } from '@idle-bend/core/group';
import { isGroup, parseProject, type Project } from '@idle-bend/core/model';
import { create } from 'zustand';
import { api, ApiError } from '../api.ts';
import { recallHistory, rememberHistory } from './history.ts';

export type KeepState = 'kept' | 'keeping' | 'waiting' | 'conflict';

interface ProjectState {
  readonly id: string | undefined;
  readonly name: string;
  /** Where on the server's machine files are picked up. */
  readonly watchedFolder: string;
  /** What is shown and edited: the whole project or, while a group is open, the project as it is from inside that. */
  readonly document: Project | undefined;
  /** What is kept. */
  readonly whole: Project | undefined;
  /** The groups that are open, outermost first; the last one is what is seen. */
  readonly within: readonly OpenGroup[];
  /** The server's version this window's document was edited from. */
  readonly version: number;
  readonly past: readonly Project[];
  readonly future: readonly Project[];
  readonly keep: KeepState;
  /** The document before the gesture under way, while there is one. */
  readonly gestureStart: Project | undefined;
}

export interface OpenGroup {
  readonly sourceId: string;
  /** The clip it was opened from. */
  readonly clipId: string;
}

/** The open project: a value, its earlier values for undo, and whether the server has it. */
export const useProject = create<ProjectState>(() => ({
  id: undefined,
  name: '',
  watchedFolder: '',
  document: undefined,
  whole: undefined,
  within: [],
  version: 0,
  past: [],
  future: [],
  keep: 'kept',
  gestureStart: undefined,
}));

const { getState: get, setState: set } = useProject;
const MAX_UNDO = 500;

/** The whole project, and what of it is seen: groups that are gone are not open any more. */
function seen(whole: Project, within = get().within): Pick<ProjectState, 'whole' | 'within' | 'document'> {
  const there = (group: OpenGroup) => whole.sources.some((source) => source.id === group.sourceId && isGroup(source));
  const gone = within.findIndex((group) => !there(group));
  const open = gone < 0 ? within : within.slice(0, gone);
  const last = open.at(-1);
  return { whole, within: open, document: last ? insideGroup(whole, last.sourceId) : whole };
}

/** The whole project with a document that was edited where it is seen. */
function wholeWith(whole: Project, document: Project): Project {
  const last = get().within.at(-1);
  if (!last) return reconcileReel(document);
  // What was not changed is the same project, which is how a gesture knows that it did nothing.
  return document === insideGroup(whole, last.sourceId)
    ? whole
    : reconcileReel(withInside(whole, last.sourceId, reconcileReel(document)));
}

/** Goes into a group, or (without one) out of the innermost. */
export function openGroup(group: OpenGroup | undefined): void {
  const { whole, within } = get();
  if (whole) set(seen(whole, group ? [...within, group] : within.slice(0, -1)));
}

export function closeAllGroups(): void {
  const { whole, within } = get();
  if (whole && within.length > 0) set(seen(whole, []));
}

export async function loadProject(id: string): Promise<void> {
  await flush().catch(() => undefined);
  set({
    id: undefined,
    document: undefined,
    whole: undefined,
    within: [],
    past: [],
    future: [],
    keep: 'kept',
    gestureStart: undefined,
  });
  const { name, version, watchedFolder, document } = await api.openProject(id);
  const history = await recallHistory(id, version);
  set({ id, name, version, watchedFolder, ...seen(parseProject(document), []), ...history });
}

/** One edit, one undo. A gesture under way ends with it. */
export function edit(change: (project: Project) => Project): void {
  endGesture();
  const { document, whole, past } = get();
  if (!document || !whole) return;
  const changedDocument = change(document);
  if (changedDocument === document) return;
  set({ ...seen(wholeWith(whole, changedDocument)), past: [...past, whole].slice(-MAX_UNDO), future: [] });
  changed();
}

/** The whole project before the gesture under way. */
let wholeBefore: Project | undefined;

/** A step of a drag, always computed from the document the gesture began with; the whole gesture is one undo. */
export function editDuringGesture(change: (project: Project) => Project): void {
  const { document, whole, gestureStart } = get();
  if (!document) return;
  const start = gestureStart ?? document;
  if (!gestureStart) wholeBefore = whole;
  set({ ...seen(wholeWith(wholeBefore!, change(start))), gestureStart: start });
}

/** A change nobody made, such as what was heard in a sound: kept, and nothing to undo. */
export function amend(change: (project: Project) => Project): void {
  const { whole, gestureStart } = get();
  if (!whole || gestureStart) return;
  const next = change(whole);
  if (next === whole) return;
  set(seen(next));
  changed();
}

export function endGesture(): void {
  const { whole, gestureStart, past } = get();
  if (!gestureStart) return;
  set({ gestureStart: undefined });
  if (whole === wholeBefore) return;
  set({ past: [...past, wholeBefore!].slice(-MAX_UNDO), future: [] });
  changed();
}

export function cancelGesture(): void {
  const { gestureStart } = get();
  if (gestureStart) set({ ...seen(wholeBefore!), gestureStart: undefined });
}

export function undo(): void {
  endGesture();
  const { whole, past, future } = get();
  if (!whole || past.length === 0) return;
  set({ ...seen(past.at(-1)!), past: past.slice(0, -1), future: [whole, ...future] });
  changed();
}

export function redo(): void {
  endGesture();
  const { whole, past, future } = get();
  if (!whole || future.length === 0) return;
  set({ ...seen(future[0]!), past: [...past, whole], future: future.slice(1) });
  changed();
}

/** The project without what a gesture under way does to it: a drag is kept when it ends. */
const settled = () => (get().gestureStart ? wholeBefore : get().whole);

let timer: ReturnType<typeof setTimeout> | undefined;
let sending: Promise<void> | undefined;

function changed(): void {
  if (get().keep === 'conflict') return;
  set({ keep: 'keeping' });
  clearTimeout(timer);
  timer = setTimeout(() => void flush().catch(() => undefined), 200);
}

/** Brings the server up to date; resolves when it has acknowledged what is shown now. Rejects in a conflict. */
export async function flush(): Promise<void> {
  clearTimeout(timer);
  while (sending) await sending;
  const { id, version, keep } = get();
  const document = settled();
  if (!id || !document || keep === 'kept') return;
  if (keep === 'conflict') throw new Error('This project was changed in another window.');
  sending = send(id, version, document);
  try {
    await sending;
  } finally {
    sending = undefined;
  }
  if (get().id === id && get().keep === 'keeping') await flush();
}

async function send(id: string, version: number, document: Project): Promise<void> {
  try {
    const kept = await api.keepDocument(id, version, document);
    if (get().id !== id) return;
    set({ version: kept.version, keep: settled() === document ? 'kept' : 'keeping' });
    const { past, future } = get();
    if (settled() === document) void rememberHistory(id, { version: kept.version, past, future });
  } catch (error) {
    const status = error instanceof ApiError ? error.status : 0;
    if (get().id === id) set({ keep: status === 409 ? 'conflict' : 'waiting' });
    if (status !== 409) timer = setTimeout(() => void flush().catch(() => undefined), 2000);
    throw error;
  }
}

/** Another window kept a change. Without changes of our own we follow; with some, the editor decides. */
export async function followOtherWindow(version: number): Promise<void> {
  const { id, version: ours } = get();
  if (!id || version <= ours) return;
  const untouched = () => get().keep === 'kept' && !get().gestureStart;
  const theirs = untouched() ? await api.openProject(id) : undefined;
  if (get().id !== id || version <= get().version) return;
  // Nor is what was done while theirs was fetched put aside without a word.
  if (theirs && untouched()) take(theirs);
  else set({ keep: 'conflict' });
}

/** Whether another window kept a change that this one was not told of, because it could not hear the server for a while. */
export async function catchUp(): Promise<void> {
  // Changes of our own that are under way are answered for by the server.
  await flush();
  const { id, keep } = get();
  if (!id || keep !== 'kept') return;
  const { version } = await api.openProject(id);
  if (get().id === id) await followOtherWindow(version);
}

export async function takeTheirs(): Promise<void> {
  const { id } = get();
  if (!id) return;
  const theirs = await api.openProject(id);
  if (get().id === id) take(theirs);
}

function take(theirs: OpenedProject): void {
  const { whole, past, version, keep } = get();
  // Told of it twice (by the server, and by what asked for it), it is taken once.
  if (theirs.version === version && keep === 'kept') return;
  // What was here stays one undo away.
  set({
    version: theirs.version,
    ...seen(parseProject(theirs.document)),
    past: whole ? [...past, whole].slice(-MAX_UNDO) : past,
    future: [],
    keep: 'kept',
    gestureStart: undefined,
  });
}

export async function keepOurs(): Promise<void> {
  const { id } = get();
  if (!id) return;
  const { version } = await api.openProject(id);
  set({ version, keep: 'keeping' });
  await flush();
}
