import { useStore } from 'zustand';
import { benchStore, type BenchState } from '../session/bench-state.ts';
import type { ProjectState } from '../session/document-store.ts';
import { projectStore } from '../session/session.ts';

/** A part of the open project, drawn again when that part changes and not before. */
export const useProject = <T>(part: (state: ProjectState) => T): T => useStore(projectStore, part);

/** The address of the frame from the originals, while it is looked at and the document is as it was then. */
export function useOriginal(): string | undefined {
  const document = useProject((s) => s.document);
  return useBench((s) => (s.original?.of === document ? s.original?.address : undefined));
}

/** A part of what the bench shows. */
export const useBench = <T>(part: (state: BenchState) => T): T => useStore(benchStore, part);
