import { parseProject, settleReel, type Project } from '@idle-bend/core';
import { create } from 'zustand';
import { api, ApiError } from '../api.ts';
import { recallHistory, rememberHistory } from './history.ts';

export type KeepState = 'kept' | 'keeping' | 'waiting' | 'conflict';

interface ProjectState {
  readonly id: string | undefined;
  readonly name: string;
  /** Where on the server's machine files are picked up. */
  readonly watchedFolder: string;
  readonly document: Project | undefined;
  /** The server's version this window's document was edited from. */
  readonly version: number;
  readonly past: readonly Project[];
  readonly future: readonly Project[];
  readonly keep: KeepState;
  /** The document before the gesture under way, while there is one. */
  readonly gestureStart: Project | undefined;
}

/** The open project: a value, its earlier values for undo, and whether the server has it. */
export const useProject = create<ProjectState>(() => ({
  id: undefined,
  name: '',
  watchedFolder: '',
  document: undefined,
  version: 0,
  past: [],
  future: [],
  keep: 'kept',
  gestureStart: undefined,
}));

const { getState: get, setState: set } = useProject;
const MOST_UNDO = 500;

export async function loadProject(id: string): Promise<void> {
  await flush().catch(() => undefined);
  set({ id: undefined, document: undefined, past: [], future: [], keep: 'kept', gestureStart: undefined });
  const { name, version, watchedFolder, document } = await api.openProject(id);
  const history = await recallHistory(id, version);
  set({ id, name, version, watchedFolder, document: parseProject(document), ...history });
}

/** One edit, one undo. */
export function edit(change: (project: Project) => Project): void {
  const { document, past } = get();
  if (!document) return;
  const changedDocument = change(document);
  if (changedDocument === document) return;
  const next = settleReel(changedDocument);
  set({ document: next, past: [...past, document].slice(-MOST_UNDO), future: [] });
  changed();
}

/** A step of a drag, always computed from the document the gesture began with; the whole gesture is one undo. */
export function editDuringGesture(change: (project: Project) => Project): void {
  const { document, gestureStart } = get();
  if (!document) return;
  const start = gestureStart ?? document;
  set({ document: settleReel(change(start)), gestureStart: start });
}

/** A change nobody made, such as what was heard in a sound: kept, and nothing to undo. */
export function amend(change: (project: Project) => Project): void {
  const { document, gestureStart } = get();
  if (!document || gestureStart) return;
  const next = change(document);
  if (next === document) return;
  set({ document: next });
  changed();
}

export function endGesture(): void {
  const { document, gestureStart, past } = get();
  if (!gestureStart) return;
  set({ gestureStart: undefined });
  if (document === gestureStart) return;
  set({ past: [...past, gestureStart].slice(-MOST_UNDO), future: [] });
  changed();
}

export function cancelGesture(): void {
  const { gestureStart } = get();
  if (gestureStart) set({ document: gestureStart, gestureStart: undefined });
}

export function undo(): void {
  const { document, past, future } = get();
  if (!document || past.length === 0) return;
  set({ document: past[past.length - 1], past: past.slice(0, -1), future: [document, ...future] });
  changed();
}

export function redo(): void {
  const { document, past, future } = get();
  if (!document || future.length === 0) return;
  set({ document: future[0], past: [...past, document], future: future.slice(1) });
  changed();
}

/** The document without what a gesture under way does to it: a drag is kept when it ends. */
const settled = () => get().gestureStart ?? get().document;

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
  const { id, keep, version: ours, gestureStart } = get();
  if (!id || version <= ours) return;
  if (keep === 'kept' && !gestureStart) await takeTheirs();
  else set({ keep: 'conflict' });
}

export async function takeTheirs(): Promise<void> {
  const { id, document, past } = get();
  if (!id) return;
  const theirs = await api.openProject(id);
  // What was here stays one undo away.
  set({
    version: theirs.version,
    document: parseProject(theirs.document),
    past: document ? [...past, document] : past,
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
