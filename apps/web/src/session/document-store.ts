import type { OpenedProject } from '@idle-bend/core/api';
import { type NarrowedBend, narrowedBends, reconcileReel, takeBack } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import { insideGroup, withInside } from '@idle-bend/core/group';
import { isGroup, parseProject, type Project } from '@idle-bend/core/model';
import { createStore, type StoreApi } from 'zustand/vanilla';

/** Whether the server has what is shown: saved; being saved; it cannot be reached; another window saved something else. */
export type KeepState = 'kept' | 'keeping' | 'waiting' | 'conflict';

export interface ProjectState {
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
  readonly past: readonly UndoStep[];
  readonly future: readonly UndoStep[];
  readonly keep: KeepState;
  /** The document before the gesture under way, while there is one. */
  readonly gestureStart: Project | undefined;
}

export interface OpenGroup {
  readonly sourceId: string;
  /** The clip it was opened from. */
  readonly clipId: string;
}

type SavedProject = Pick<OpenedProject, 'name' | 'version' | 'watchedFolder' | 'document'>;

/** Who keeps projects. What it rejects with has the `status` of the answer; 409 says that another window was there first. */
export interface ProjectServer {
  openProject(id: string): Promise<SavedProject>;
  keepDocument(id: string, version: number, document: Project): Promise<{ readonly version: number }>;
}

/** An edit of this window: the whole project before it and after it. */
export interface UndoStep {
  readonly before: Project;
  readonly after: Project;
}

export interface UndoSteps {
  readonly past: readonly UndoStep[];
  readonly future: readonly UndoStep[];
}

/** Where the steps of undo outlive a reload. */
export interface UndoHistory {
  remember(projectId: string, steps: UndoSteps & { readonly version: number }): Promise<void>;
  recall(projectId: string, version: number): Promise<UndoSteps>;
}

/** What the editor is to know. */
export interface Says {
  /** Ramp joins that an edit has broken, so that they came off. */
  readonly broken: (joins: readonly BrokenJoin[]) => void;
  /** Bends that an edit has left narrower than they were given. */
  readonly narrowed: (bends: readonly NarrowedBend[]) => void;
  /** Why an edit cannot be undone, or done again. */
  readonly refused: (reason: string) => void;
}

/** A ramp join that is no more, by the names of its clips. */
export interface BrokenJoin {
  readonly before: string;
  readonly after: string;
}

const MAX_UNDO = 500;
/** Edits that follow one another faster than this are sent together. */
const SEND_AFTER_MS = 200;
const RETRY_AFTER_MS = 2000;
const CONFLICT = 409;

const NOTHING_OPEN: ProjectState = {
  ...{ id: undefined, name: '', watchedFolder: '', document: undefined, whole: undefined, within: [], version: 0 },
  ...{ past: [], future: [], keep: 'kept', gestureStart: undefined },
};

/** The open project: a value, its earlier values for undo, and whether the server has it. */
export class DocumentStore {
  readonly store: StoreApi<ProjectState> = createStore(() => NOTHING_OPEN);
  /** The whole project before the gesture under way. */
  private wholeBefore: Project | undefined;
  /** What is to be amended once the gesture under way has ended. */
  private readonly amendAfter: ((project: Project) => Project)[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending: Promise<void> | undefined;
  /** The server changes the project because this window has asked for it. */
  private isTaking = false;

  constructor(
    private readonly server: ProjectServer,
    private readonly history: UndoHistory,
    private readonly says: Says = { broken: () => undefined, narrowed: () => undefined, refused: () => undefined },
  ) {}

  private get state(): ProjectState {
    return this.store.getState();
  }

  /** Opens a project as the server has it, once what is open is saved or cannot be. */
  readonly load = async (id: string): Promise<void> => {
    await this.flush().catch(() => undefined);
    this.amendAfter.length = 0;
    const { name, watchedFolder, version } = this.state;
    this.store.setState({ ...NOTHING_OPEN, name, watchedFolder, version });
    const opened = await this.server.openProject(id);
    const steps = await this.history.recall(id, opened.version);
    this.store.setState({
      ...{ id, name: opened.name, version: opened.version, watchedFolder: opened.watchedFolder, ...steps },
      ...this.seen(parseProject(opened.document), []),
    });
  };

  /** Goes into a group, or (without one) out of the innermost. */
  readonly openGroup = (group: OpenGroup | undefined): void => {
    const { whole, within } = this.state;
    if (whole) this.store.setState(this.seen(whole, group ? [...within, group] : within.slice(0, -1)));
  };

  readonly closeAllGroups = (): void => {
    const { whole, within } = this.state;
    if (whole && within.length > 0) this.store.setState(this.seen(whole, []));
  };

  /** One edit, one undo. A gesture under way ends with it. What `change` throws is passed on, and nothing changes. */
  readonly edit = (change: (project: Project) => Project): void => {
    this.endGesture();
    const { document, whole, past } = this.state;
    if (!document || !whole) return;
    const changed = change(document);
    if (changed === document) return;
    const next = this.seen(this.wholeWith(whole, changed));
    this.store.setState({ ...next, ...withStep(past, whole, next.whole!) });
    this.sendSoon();
    this.tellOfBroken(document, changed);
    this.tellOfNarrowed(document);
  };

  /** A step of a drag, always computed from the document the gesture began with; the whole gesture is one undo. */
  readonly editDuringGesture = (change: (project: Project) => Project): void => {
    const { document, whole, gestureStart } = this.state;
    if (!document) return;
    const start = gestureStart ?? document;
    if (!gestureStart) this.wholeBefore = whole;
    this.store.setState({ ...this.seen(this.wholeWith(this.wholeBefore!, change(start))), gestureStart: start });
  };

  /** A change nobody made, such as what was heard in a sound: kept, and nothing to undo. During a gesture it waits for its end. */
  readonly amend = (change: (project: Project) => Project): void => {
    const { whole, gestureStart } = this.state;
    if (gestureStart) this.amendAfter.push(change);
    if (!whole || gestureStart) return;
    const next = change(whole);
    if (next === whole) return;
    // Steps of undo are of the project with it: it is nobody's to take back.
    const { past, future } = this.state;
    const changed = new Map([[whole, next]]);
    const amended = (project: Project) => {
      if (!changed.has(project)) changed.set(project, changedWhereItCan(project, change));
      return changed.get(project)!;
    };
    const step = ({ before, after }: UndoStep) => ({ before: amended(before), after: amended(after) });
    this.store.setState({ ...this.seen(next), past: past.map(step), future: future.map(step) });
    this.sendSoon();
  };

  readonly endGesture = (): void => {
    const { whole, gestureStart, past } = this.state;
    if (!gestureStart) return;
    this.store.setState({ gestureStart: undefined });
    if (whole !== this.wholeBefore) {
      this.store.setState(withStep(past, this.wholeBefore!, whole!));
      this.sendSoon();
      this.tellOfBroken(gestureStart, gestureStart);
      this.tellOfNarrowed(gestureStart);
    }
    this.amendNow();
  };

  private amendNow(): void {
    for (const change of this.amendAfter.splice(0)) this.amend(change);
  }

  private tellOfNarrowed(before: Project): void {
    const { document } = this.state;
    const bends = document ? narrowedBends(before, document) : [];
    if (bends.length > 0) this.says.narrowed(bends);
  }

  /** What an edit left in the document and is not in it any more has come off by itself. */
  private tellOfBroken(before: Project, changed: Project): void {
    const { document } = this.state;
    const has = (project: Project | undefined, id: string) => project?.reel.joins.some((join) => join.id === id);
    const broken = before.reel.joins.filter(({ id }) => has(changed, id) && !has(document, id));
    if (broken.length === 0) return;
    const nameOf = (clipId: string) => {
      const item = before.reel.items.find(({ id }) => id === clipId);
      return item?.kind === 'clip' ? item.name : '';
    };
    this.says.broken(broken.map((join) => ({ before: nameOf(join.before), after: nameOf(join.after) })));
  }

  readonly cancelGesture = (): void => {
    const { gestureStart } = this.state;
    if (gestureStart) this.store.setState({ ...this.seen(this.wholeBefore!), gestureStart: undefined });
    this.amendNow();
  };

  /** Takes back the last edit of this window; what another has done since stays. */
  readonly undo = (): void => {
    this.endGesture();
    const { past, future } = this.state;
    const step = past.at(-1);
    if (step && this.turn(step.before, step.after))
      this.store.setState({ past: past.slice(0, -1), future: [step, ...future] });
  };

  readonly redo = (): void => {
    this.endGesture();
    const { past, future } = this.state;
    const [step] = future;
    if (step && this.turn(step.after, step.before))
      this.store.setState({ past: [...past, step], future: future.slice(1) });
  };

  /** Whether what was made `to` of `from` could be taken back. */
  private turn(from: Project, to: Project): boolean {
    const { whole } = this.state;
    if (!whole) return false;
    try {
      const back = takeBack(from, to, whole);
      this.store.setState(this.seen(back === from ? back : reconcileReel(back)));
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      this.says.refused(error.problem);
      return false;
    }
    this.sendSoon();
    return true;
  }

  /** Brings the server up to date; resolves when it has acknowledged what is shown now. Rejects in a conflict. */
  readonly flush = async (): Promise<void> => {
    clearTimeout(this.timer);
    while (this.sending) await this.sending;
    const { id, version, keep } = this.state;
    const document = this.settled;
    if (!id || !document || keep === 'kept') return;
    if (keep === 'conflict') throw new Error('This project was changed in another window.');
    this.sending = this.send(id, version, document);
    try {
      await this.sending;
    } finally {
      this.sending = undefined;
    }
    if (this.state.id === id && this.state.keep === 'keeping') await this.flush();
  };

  /** Another window kept a change. Without changes of our own we follow; with some, the editor decides. */
  readonly followOtherWindow = async (version: number): Promise<void> => {
    const { id, version: ours } = this.state;
    if (!id || version <= ours || this.isTaking) return;
    const untouched = () => this.state.keep === 'kept' && !this.state.gestureStart;
    const theirs = untouched() ? await this.server.openProject(id) : undefined;
    if (this.state.id !== id || version <= this.state.version) return;
    // Nor is what was done while theirs was fetched put aside without a word.
    if (theirs && untouched()) this.take(theirs, 'theirs');
    else this.store.setState({ keep: 'conflict' });
  };

  /** Whether another window kept a change that this one was not told of, because it could not hear the server for a while. */
  readonly catchUp = async (): Promise<void> => {
    // Changes of our own that are under way are answered for by the server.
    await this.flush();
    const { id, keep } = this.state;
    if (!id || keep !== 'kept') return;
    const { version } = await this.server.openProject(id);
    if (this.state.id === id) await this.followOtherWindow(version);
  };

  /** Ends a conflict with the other window's document; what was here stays one undo away. */
  readonly takeTheirs = (): Promise<void> => this.takeAfter(() => Promise.resolve());

  /** Has the server change the project, as an edit of this window. */
  readonly takeAfter = async (change: () => Promise<unknown>): Promise<void> => {
    const { id } = this.state;
    if (!id) return;
    this.isTaking = true;
    try {
      await change();
      const theirs = await this.server.openProject(id);
      if (this.state.id === id) this.take(theirs, 'ours');
    } catch (error) {
      this.isTaking = false;
      // What others did meanwhile was not followed.
      void this.catchUp().catch(() => undefined);
      throw error;
    } finally {
      this.isTaking = false;
    }
  };

  /** Ends a conflict with this window's document. */
  readonly keepOurs = async (): Promise<void> => {
    const { id } = this.state;
    if (!id) return;
    const { version } = await this.server.openProject(id);
    if (this.state.id !== id) return;
    this.store.setState({ version, keep: 'keeping' });
    await this.flush();
  };

  /** The whole project, and what of it is seen: groups that are gone are not open any more. */
  private seen(whole: Project, within = this.state.within): Pick<ProjectState, 'whole' | 'within' | 'document'> {
    const there = (group: OpenGroup) => whole.sources.some((source) => source.id === group.sourceId && isGroup(source));
    const gone = within.findIndex((group) => !there(group));
    const open = gone < 0 ? within : within.slice(0, gone);
    const last = open.at(-1);
    return { whole, within: open, document: last ? insideGroup(whole, last.sourceId) : whole };
  }

  /** The whole project with a document that was edited where it is seen. */
  private wholeWith(whole: Project, document: Project): Project {
    const last = this.state.within.at(-1);
    if (!last) return reconcileReel(document);
    // What was not changed is the same project, which is how a gesture knows that it did nothing.
    return document === insideGroup(whole, last.sourceId)
      ? whole
      : reconcileReel(withInside(whole, last.sourceId, reconcileReel(document)));
  }

  /** The project without what a gesture under way does to it: a drag is kept when it ends. */
  private get settled(): Project | undefined {
    return this.state.gestureStart ? this.wholeBefore : this.state.whole;
  }

  private sendSoon(): void {
    if (this.state.keep === 'conflict') return;
    this.store.setState({ keep: 'keeping' });
    this.sendAfter(SEND_AFTER_MS);
  }

  private sendAfter(milliseconds: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush().catch(() => undefined), milliseconds);
  }

  private async send(id: string, version: number, document: Project): Promise<void> {
    try {
      const kept = await this.server.keepDocument(id, version, document);
      if (this.state.id !== id) return;
      const isNewest = this.settled === document;
      this.store.setState({ version: kept.version, keep: isNewest ? 'kept' : 'keeping' });
      const { past, future } = this.state;
      if (isNewest) void this.history.remember(id, { version: kept.version, past, future });
    } catch (error) {
      const conflict = (error as { readonly status?: number }).status === CONFLICT;
      if (this.state.id === id) this.store.setState({ keep: conflict ? 'conflict' : 'waiting' });
      if (!conflict) this.sendAfter(RETRY_AFTER_MS);
      throw error;
    }
  }

  /** What this window has asked for is an edit of its own. */
  private take(theirs: SavedProject, whose: 'ours' | 'theirs'): void {
    const { whole, past, future, version, keep } = this.state;
    // Told of it twice (by the server, and by what asked for it), it is taken once.
    if (theirs.version === version && keep === 'kept') return;
    const taken = parseProject(theirs.document);
    this.store.setState({
      ...{ version: theirs.version, ...this.seen(taken) },
      ...(whose === 'ours' && whole ? withStep(past, whole, taken) : { past, future }),
      ...{ keep: 'kept', gestureStart: undefined },
    });
  }
}

/** A project from before what is changed was there stays as it is. */
function changedWhereItCan(project: Project, change: (project: Project) => Project): Project {
  try {
    return change(project);
  } catch (error) {
    if (error instanceof InvalidInput) return project;
    throw error;
  }
}

/** One step more; what was undone before it cannot be done again. */
const withStep = (past: readonly UndoStep[], before: Project, after: Project): UndoSteps => ({
  past: [...past, { before, after }].slice(-MAX_UNDO),
  future: [],
});
