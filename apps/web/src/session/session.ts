import type { NarrowedBend } from '@idle-bend/core/edit';
import { api } from '../api.ts';
import { type BrokenJoin, DocumentStore } from './document-store.ts';
import { browserHistory } from './history.ts';
import { tell, tellWarning } from './notices.ts';

function tellBroken(joins: readonly BrokenJoin[]): void {
  const [{ before, after }] = joins as [BrokenJoin];
  const which =
    joins.length === 1
      ? `The ramp join from “${before}” to “${after}” came off`
      : `${joins.length} ramp joins came off`;
  tell(`${which}, on both sides of the cut. One undo brings all back.`, { id: 'broken-join' });
}

const tenths = (frames: number) => String(Math.round(10 * frames) / 10);

function tellNarrowed(bends: readonly NarrowedBend[]): void {
  const [{ clip, widthFrames, wanted }] = bends as [NarrowedBend];
  const sentence =
    bends.length === 1
      ? `A bend of “${clip}” has room for ${tenths(widthFrames)} of its ${tenths(wanted)} frames. It gets its width back when there is room again.`
      : `${bends.length} bends have less room than their widths. They get them back when there is room again.`;
  tell(sentence, { id: 'narrowed' });
}

const documents = new DocumentStore(api, browserHistory, {
  broken: tellBroken,
  narrowed: tellNarrowed,
  refused: (reason) => tellWarning(`That stays as it is: ${reason}.`, { id: 'undo' }),
});

/** The project that is open in this window. */
export const projectStore = documents.store;

export const { load: loadProject, openGroup, closeAllGroups } = documents;
export const { edit, editDuringGesture, endGesture, cancelGesture, amend, undo, redo } = documents;
export const { flush, followOtherWindow, catchUp, takeTheirs, takeAfter, keepOurs } = documents;
