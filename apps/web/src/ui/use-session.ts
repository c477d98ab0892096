import { useStore } from 'zustand';
import { benchStore, type BenchState } from '../session/bench-state.ts';
import type { ProjectState } from '../session/document-store.ts';
import { projectStore } from '../session/session.ts';

/** A part of the open project, drawn again when that part changes and not before. */
export const useProject = <T>(part: (state: ProjectState) => T): T => useStore(projectStore, part);

/** A part of what the bench shows. */
export const useBench = <T>(part: (state: BenchState) => T): T => useStore(benchStore, part);
