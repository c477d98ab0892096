import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { addCue, updateCue } from '@idle-bend/core/edit';
import { groupItems } from '@idle-bend/core/group';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import { parade } from '../../test/parade.ts';
import { DocumentStore, type UndoSteps } from './document-store.ts';

/** A server with one project, on which a test puts its hand: answers are held back, lost or refused as it says. */
class StandInServer {
  version = 1;
  document: Project = parade();
  kept: Project[] = [];
  /** What the next keeping meets. */
  meets: 'nothing' | 'no answer' = 'nothing';
  gate: Promise<void> = Promise.resolve();

  openProject = async () => {
    await this.gate;
    return { name: 'Marble Parade', version: this.version, watchedFolder: '/in', document: this.document };
  };

  keepDocument = async (_: string, version: number, document: Project) => {
    await this.gate;
    if (this.meets === 'no answer') throw Object.assign(new Error('The server does not answer.'), { status: 0 });
    if (version !== this.version) throw Object.assign(new Error('changed meanwhile'), { status: 409 });
    this.version++;
    this.document = document;
    this.kept.push(document);
    return { version: this.version };
  };

  /** Another window saves something. */
  changeElsewhere(name: string): void {
    this.document = named(name)(this.document);
    this.version++;
  }

  /** Answers nothing until the function it answers is called. */
  hold(): () => void {
    let open = () => {};
    this.gate = new Promise((resolve) => (open = resolve));
    return open;
  }
}

class StandInHistory {
  kept: (UndoSteps & { readonly version: number }) | undefined;
  remember = (_: string, steps: UndoSteps & { readonly version: number }) => {
    this.kept = steps;
    return Promise.resolve();
  };
  recall = (_: string, version: number): Promise<UndoSteps> =>
    Promise.resolve(this.kept?.version === version ? this.kept : { past: [], future: [] });
}

const named = (name: string) => (project: Project) => updateCue(project, 'beat', { name });
const nameOf = (project: Project | undefined) => project?.reel.cues.find(({ id }) => id === 'beat')?.name;

let server: StandInServer;
let history: StandInHistory;
let documents: DocumentStore;
let refused: string[];
const state = () => documents.store.getState();
const shownName = () => nameOf(state().document);
const pass = (milliseconds: number) => jest.advanceTimersByTimeAsync(milliseconds);

beforeEach(async () => {
  jest.useFakeTimers();
  server = new StandInServer();
  history = new StandInHistory();
  refused = [];
  documents = new DocumentStore(server, history, {
    ...{ broken: () => undefined, narrowed: () => undefined },
    refused: (reason) => refused.push(reason),
  });
  await documents.load('p');
});
afterEach(() => void jest.useRealTimers());

describe('undo', () => {
  test('an edit is one step, and redo does it again', () => {
    documents.edit(named('a'));
    documents.edit(named('b'));
    documents.undo();
    expect(shownName()).toBe('a');
    documents.undo();
    expect(shownName()).toBe('beat');
    documents.undo();
    expect(shownName()).toBe('beat');
    documents.redo();
    documents.redo();
    documents.redo();
    expect(shownName()).toBe('b');
  });

  test('an edit that changes nothing is no step, and one that is refused changes nothing', () => {
    documents.edit((project) => project);
    expect(() => documents.edit(() => JSON.parse('{'))).toThrow(SyntaxError);
    expect(state()).toMatchObject({ past: [], keep: 'kept' });
  });

  test('a gesture is one step however many moves it has, and each move begins where the gesture did', () => {
    const seen: (string | undefined)[] = [];
    for (const name of ['a', 'b', 'c'])
      documents.editDuringGesture((project) => {
        seen.push(nameOf(project));
        return named(name)(project);
      });
    documents.endGesture();
    expect(seen).toEqual(['beat', 'beat', 'beat']);
    expect(shownName()).toBe('c');
    documents.undo();
    expect(shownName()).toBe('beat');
  });

  test('a gesture that is cancelled, or comes back to where it began, leaves nothing behind', () => {
    const before = state().whole;
    documents.editDuringGesture(named('a'));
    documents.cancelGesture();
    documents.editDuringGesture(named('a'));
    documents.editDuringGesture((project) => project);
    documents.endGesture();
    expect(state().whole).toBe(before);
    expect(state()).toMatchObject({ past: [], keep: 'kept', gestureStart: undefined });
  });

  test('undo during a gesture takes the gesture back', () => {
    documents.editDuringGesture(named('a'));
    documents.undo();
    expect(shownName()).toBe('beat');
    expect(state().future).toHaveLength(1);
  });

  test('what nobody did is no step, and waits for the end of a gesture', () => {
    documents.amend(named('heard'));
    expect(state().past).toHaveLength(0);
    for (const end of [documents.endGesture, documents.cancelGesture]) {
      documents.editDuringGesture(named('a'));
      documents.amend(named('found'));
      expect(shownName()).toBe('a');
      end();
      expect(shownName()).toBe('found');
    }
  });

  test('it goes on after a reload, unless the project was changed elsewhere', async () => {
    documents.edit(named('a'));
    await documents.flush();
    const again = new DocumentStore(server, history);
    await again.load('p');
    again.undo();
    expect(nameOf(again.store.getState().document)).toBe('beat');

    server.changeElsewhere('x');
    const later = new DocumentStore(server, history);
    await later.load('p');
    expect(later.store.getState().past).toHaveLength(0);
  });
});

describe('saving', () => {
  test('edits that follow each other quickly are sent once', async () => {
    documents.edit(named('a'));
    await pass(150);
    documents.edit(named('b'));
    expect(state().keep).toBe('keeping');
    await pass(199);
    expect(server.kept).toHaveLength(0);
    await pass(2);
    expect(server.kept.map(nameOf)).toEqual(['b']);
    expect(state()).toMatchObject({ keep: 'kept', version: 2 });
  });

  test('what is edited while the server answers is sent after it', async () => {
    documents.edit(named('a'));
    const answer = server.hold();
    await pass(250);
    documents.edit(named('b'));
    answer();
    await pass(0);
    expect(server.kept.map(nameOf)).toEqual(['a', 'b']);
    expect(state()).toMatchObject({ keep: 'kept', version: 3 });
  });

  test('a drag is sent when it ends', async () => {
    documents.edit(named('a'));
    documents.editDuringGesture(named('b'));
    await pass(1000);
    expect(server.kept.map(nameOf)).toEqual(['a']);
    documents.endGesture();
    await pass(250);
    expect(server.kept.map(nameOf)).toEqual(['a', 'b']);
  });

  test('a server that does not answer is asked every two seconds, and nothing is lost', async () => {
    server.meets = 'no answer';
    documents.edit(named('a'));
    await pass(250);
    expect(state().keep).toBe('waiting');
    documents.edit(named('b'));
    await pass(4000);
    expect(server.kept).toHaveLength(0);
    server.meets = 'nothing';
    await pass(2100);
    expect(server.kept.map(nameOf)).toEqual(['b']);
    expect(state()).toMatchObject({ keep: 'kept', version: 2 });
  });

  test('whoever needs the server to have everything waits for it', async () => {
    documents.edit(named('a'));
    const answer = server.hold();
    const flushed = documents.flush();
    documents.edit(named('b'));
    answer();
    await flushed;
    expect(server.kept.map(nameOf)).toEqual(['a', 'b']);
    server.meets = 'no answer';
    documents.edit(named('c'));
    await expect(documents.flush()).rejects.toThrow('The server does not answer.');
  });

  test('another project is opened only after the answer, and a late answer changes nothing there', async () => {
    documents.edit(named('a'));
    await documents.load('p');
    expect(server.kept.map(nameOf)).toEqual(['a']);
    expect(state()).toMatchObject({ version: 2, keep: 'kept' });
  });
});

describe('another window', () => {
  test('is followed when there is nothing of our own; what it did is not ours to undo', async () => {
    server.changeElsewhere('theirs');
    await documents.followOtherWindow(2);
    expect(shownName()).toBe('theirs');
    expect(state()).toMatchObject({ version: 2, keep: 'kept', past: [] });
    documents.undo();
    expect(shownName()).toBe('theirs');
  });

  test('undo takes back this window’s edits alone, and says so where the other has changed the same', async () => {
    documents.edit((project) => addCue(project, { id: 'ours', frame: 60, name: 'ours' }));
    documents.edit(named('ours'));
    await documents.flush();
    server.changeElsewhere('theirs');
    await documents.followOtherWindow(3);
    const cues = () => state().whole!.reel.cues.map(({ id, name }) => [id, name]);
    documents.undo();
    expect(refused).toEqual(['“theirs” was changed in another window since; undo that there first']);
    expect(cues()).toEqual([
      ['beat', 'theirs'],
      ['ours', 'ours'],
    ]);
    expect(state().past).toHaveLength(2);

    server.document = addCue(server.document, { id: 'more', frame: 70, name: 'more' });
    server.version++;
    await documents.followOtherWindow(4);
    server.changeElsewhere('ours');
    await documents.followOtherWindow(5);
    documents.undo();
    documents.undo();
    expect(cues()).toEqual([
      ['beat', 'beat'],
      ['more', 'more'],
    ]);
    documents.redo();
    expect(cues()).toEqual([
      ['beat', 'beat'],
      ['ours', 'ours'],
      ['more', 'more'],
    ]);
    await documents.flush();
    expect(state().keep).toBe('kept');
  });

  test('what the server does because this window asked is an edit of this window, whoever tells of it first', async () => {
    await documents.takeAfter(async () => {
      server.changeElsewhere('restored');
      await documents.followOtherWindow(2);
    });
    expect(shownName()).toBe('restored');
    documents.undo();
    expect(shownName()).toBe('beat');
  });

  test('what nobody did to something that is new is not done where it was not there yet', () => {
    documents.edit((project) => addCue(project, { id: 'ours', frame: 60, name: 'ours' }));
    documents.amend((project) => {
      if (!project.reel.cues.some(({ id }) => id === 'ours'))
        throw new InvalidInput('cue', 'is not on the reel any more');
      return updateCue(project, 'ours', { name: 'heard' });
    });
    documents.undo();
    expect(state().whole!.reel.cues.map(({ name }) => name)).toEqual(['beat']);
    documents.redo();
    expect(state().whole!.reel.cues.map(({ name }) => name)).toEqual(['beat', 'heard']);
  });

  test('what nobody did stays when the edit before it is taken back', () => {
    documents.edit((project) => addCue(project, { id: 'ours', frame: 60, name: 'ours' }));
    documents.amend(named('heard'));
    documents.undo();
    expect(state().whole!.reel.cues.map(({ name }) => name)).toEqual(['heard']);
    documents.redo();
    expect(state().whole!.reel.cues.map(({ name }) => name)).toEqual(['heard', 'ours']);
    expect(refused).toEqual([]);
  });

  test('old news and our own are not followed', async () => {
    await documents.followOtherWindow(1);
    expect(state().past).toHaveLength(0);
  });

  test('with changes of our own the editor decides: theirs', async () => {
    documents.edit(named('ours'));
    server.changeElsewhere('theirs');
    await pass(250);
    expect(state().keep).toBe('conflict');
    expect(shownName()).toBe('ours');
    await expect(documents.flush()).rejects.toThrow('another window');
    await documents.takeTheirs();
    expect(shownName()).toBe('theirs');
    documents.undo();
    expect(shownName()).toBe('ours');
  });

  test('with changes of our own the editor decides: ours', async () => {
    documents.edit(named('ours'));
    server.changeElsewhere('theirs');
    await documents.followOtherWindow(2);
    expect(state().keep).toBe('conflict');
    // In a conflict nothing is sent, also not by what is edited on.
    documents.edit(named('ours too'));
    await pass(5000);
    expect(server.kept).toHaveLength(0);
    await documents.keepOurs();
    expect(server.kept.map(nameOf)).toEqual(['ours too']);
    expect(state()).toMatchObject({ keep: 'kept', version: 3 });
  });

  test('theirs is taken also where the server has gone back to a lower version', async () => {
    documents.edit(named('a'));
    await documents.flush();
    documents.edit(named('b'));
    server.version = 1;
    server.document = named('restored')(server.document);
    await pass(250);
    expect(state().keep).toBe('conflict');
    await documents.takeTheirs();
    expect(shownName()).toBe('restored');
    expect(state()).toMatchObject({ version: 1, keep: 'kept' });
  });

  test('what is done while theirs is fetched is not put aside', async () => {
    server.changeElsewhere('theirs');
    const answer = server.hold();
    const followed = documents.followOtherWindow(2);
    documents.editDuringGesture(named('dragged'));
    answer();
    await followed;
    expect(state().keep).toBe('conflict');
    expect(shownName()).toBe('dragged');
  });

  test('changes that were missed while the server was out of reach are caught up with', async () => {
    await documents.catchUp();
    expect(state().past).toHaveLength(0);
    server.changeElsewhere('theirs');
    await documents.catchUp();
    expect(shownName()).toBe('theirs');
  });

  test('told twice of the same change, it is taken once', async () => {
    server.changeElsewhere('theirs');
    await Promise.all([documents.followOtherWindow(2), documents.followOtherWindow(2)]);
    expect(state()).toMatchObject({ past: [], version: 2, keep: 'kept' });
    expect(shownName()).toBe('theirs');
  });
});

describe('groups', () => {
  const bound = { clipId: 'g', sourceId: 'inside', name: 'both' };
  beforeEach(() => documents.edit((project) => groupItems(project, ['c0', 'c1'], bound)));

  test('an open group is what is seen and edited, and all of the project is what is kept', async () => {
    documents.openGroup({ sourceId: 'inside', clipId: 'g' });
    expect(state().document?.reel.items.map(({ id }) => id)).toEqual(['c0', 'c1']);
    documents.edit((project) => addCue(project, { id: 'in', frame: 3, name: 'inside' }));
    documents.editDuringGesture((project) => project);
    documents.endGesture();
    await documents.flush();
    expect(server.kept.at(-1)?.reel.items.map(({ id }) => id)).toEqual(['g']);
    documents.openGroup(undefined);
    expect(state().document).toBe(state().whole);
  });

  test('a group that an undo takes away is not open any more', () => {
    documents.openGroup({ sourceId: 'inside', clipId: 'g' });
    documents.undo();
    expect(state().within).toEqual([]);
    expect(state().document?.reel.items.map(({ id }) => id)).toEqual(['c0', 'c1']);
    documents.redo();
    documents.openGroup({ sourceId: 'inside', clipId: 'g' });
    documents.closeAllGroups();
    expect(state().within).toEqual([]);
  });
});

test('before a project is open nothing can be edited, undone or sent', async () => {
  const empty = new DocumentStore(server, history);
  empty.edit(named('a'));
  empty.editDuringGesture(named('a'));
  empty.amend(named('a'));
  empty.undo();
  empty.redo();
  empty.openGroup({ sourceId: 'inside', clipId: 'g' });
  await Promise.all([empty.flush(), empty.takeTheirs(), empty.keepOurs(), empty.catchUp(), empty.followOtherWindow(9)]);
  expect(empty.store.getState()).toMatchObject({ document: undefined, keep: 'kept', version: 0 });
});
