import type { Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { addCue } from './edit.js';

/** A cue at every cut of the reel; `newId` names each. */
export const addCuesAtCuts = (project: Project, newId: () => string): Project =>
  placeItems(project)
    .slice(1)
    .reduce((cued, { start }, i) => addCue(cued, { id: newId(), frame: start, name: `cut ${i + 1}` }), project);
