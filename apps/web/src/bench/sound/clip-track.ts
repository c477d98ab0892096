import type { Project } from '@idle-bend/core/model';
import type { FromClips, ToClips } from './clips.worker.ts';

/** What is heard of the clips, made by a thread of its own a stretch at a time. */
let thread: Worker | undefined;
let lastSent: Project | undefined;
let requests = 0;
const waiting = new Map<number, (made: FromClips) => void>();
/** The sounds the thread has, by source, with the address each came from. */
const given = new Map<string, string>();

function tell(message: ToClips, transfer: Transferable[] = []): void {
  if (!thread) {
    thread = new Worker(new URL('./clips.worker.ts', import.meta.url), { type: 'module' });
    thread.addEventListener('message', ({ data }: MessageEvent<FromClips>) => {
      waiting.get(data.request)?.(data);
      waiting.delete(data.request);
    });
  }
  thread.postMessage(message, transfer);
}

/** Hands the thread a source's sound, once for every address. */
export function giveSound(id: string, url: string, buffer: AudioBuffer): void {
  if (given.get(id) === url) return;
  given.set(id, url);
  const channel = (n: number) => buffer.getChannelData(Math.min(n, buffer.numberOfChannels - 1)).slice();
  const [left, right] = [channel(0), channel(1)];
  tell({ kind: 'source', id, left, right }, [left.buffer, right.buffer]);
}

export const hasSound = (id: string, url: string): boolean => given.get(id) === url;

/** The reel that is read from now on. */
export function tellReel(project: Project): void {
  if (project === lastSent) return;
  lastSent = project;
  tell({ kind: 'project', project });
}

/** Samples `from` … of the reel, both channels. */
export function readClips(from: number, count: number): Promise<FromClips> {
  const request = requests++;
  const answer = new Promise<FromClips>((resolve) => waiting.set(request, resolve));
  tell({ kind: 'read', request, from, count });
  return answer;
}
