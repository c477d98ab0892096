import { api } from '../api.ts';
import { DocumentStore } from './document-store.ts';
import { browserHistory } from './history.ts';

const documents = new DocumentStore(api, browserHistory);

/** The project that is open in this window. */
export const projectStore = documents.store;

export const { load: loadProject, openGroup, closeAllGroups } = documents;
export const { edit, editDuringGesture, endGesture, cancelGesture, amend, undo, redo } = documents;
export const { flush, followOtherWindow, catchUp, takeTheirs, keepOurs } = documents;
