import { readServerEvent } from '@idle-bend/core/api';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { create } from 'zustand';
import { WINDOW_NAME } from '../api.ts';
import { catchUp, followOtherWindow } from '../session/session.ts';
import { tellError } from '../session/notices.ts';

interface Progress {
  readonly done: number;
  readonly total: number;
  readonly secondsLeft: number | null;
}

interface AllProgress {
  readonly of: Readonly<Record<string, Progress>>;
  /** A reel plays or renders, so that what is made ahead stands still. */
  readonly isForegroundBusy: boolean;
}

/** Progress of long work, by the id of what it is for. */
export const useProgress = create<AllProgress>(() => ({ of: {}, isForegroundBusy: false }));

const setProgress = (id: string, progress: Progress) =>
  useProgress.setState(({ of }) => ({ of: { ...of, [id]: progress } }));

/** Listens to what the server tells of a project while a page of it is open. */
export function useServerEvents(projectId: string): void {
  const queries = useQueryClient();
  useEffect(() => {
    const source = new EventSource(`/api/projects/${projectId}/events`);
    const refresh = (name: string) => void queries.invalidateQueries({ queryKey: [name, projectId] });
    const hearAgain = () => {
      refresh('footage');
      refresh('renders');
      void catchUp().catch(() => undefined);
    };
    source.onopen = hearAgain;
    // A stream that was cut without a word (a machine that slept, a network that was gone) is not always missed.
    const seen = () => document.visibilityState === 'visible' && hearAgain();
    window.addEventListener('online', hearAgain);
    document.addEventListener('visibilitychange', seen);
    source.onmessage = ({ data }: MessageEvent<string>) => {
      const event = readServerEvent(JSON.parse(data));
      if (event.kind === 'document' && event.by !== WINDOW_NAME) void followOtherWindow(event.version);
      if (event.kind === 'footage' || event.kind === 'renders') refresh(event.kind);
      if (event.kind === 'renders') void queries.invalidateQueries({ queryKey: ['motion-cache'] });
      if (event.kind === 'footage-progress')
        setProgress(event.footageId, { done: event.done, total: event.total, secondsLeft: null });
      if (event.kind === 'foreground') useProgress.setState({ isForegroundBusy: event.isBusy });
      if (event.kind === 'motion-progress')
        setProgress(`motion ${event.footageId}`, { done: event.done, total: event.total, secondsLeft: null });
      if (event.kind === 'sound-progress')
        setProgress(`sound ${event.footageId}`, { done: event.done, total: event.total, secondsLeft: null });
      if (event.kind === 'render-progress')
        setProgress(event.renderId, { done: event.done, total: event.total, secondsLeft: event.secondsLeft });
      if (event.kind === 'import-failed') tellError(event.message, { durationMs: 12_000 });
    };
    return () => {
      source.close();
      window.removeEventListener('online', hearAgain);
      document.removeEventListener('visibilitychange', seen);
    };
  }, [projectId, queries]);
}
