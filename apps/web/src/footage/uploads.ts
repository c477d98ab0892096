import type { Upload } from 'tus-js-client';
import { create } from 'zustand';
import { randomId } from '../random-id.ts';
import { tell, tellError, tellWarning } from '../session/notices.ts';
import { takeWhereItLies } from './chosen-file.ts';

export interface RunningUpload {
  readonly name: string;
  readonly sent: number;
  readonly bytes: number;
  readonly stop: () => void;
}

/** Files on their way to the server; they go on while the editor works elsewhere. */
export const useUploads = create<{ readonly running: Readonly<Record<string, RunningUpload>> }>(() => ({
  running: {},
}));

const CHUNK_BYTES = 16 * 1024 * 1024;

const NUMBERED = /^(.*?)(\d+)\.(png|jpe?g|tiff?|exr|bmp|webp)$/i;

/** Sends files; numbered pictures that belong together come in as one clip. */
export function sendFiles(projectId: string, files: readonly File[]): void {
  const groups = new Map<string | File, File[]>();
  for (const file of files) {
    const match = NUMBERED.exec(file.name);
    const key = match ? `${match[1]}|${match[2]!.length}|${match[3]!.toLowerCase()}` : file;
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  for (const [key, group] of groups) {
    if (typeof key !== 'string' || group.length < 2)
      for (const file of group)
        void takeWhereItLies(projectId, file).then((isUsed) => isUsed || sendFile(projectId, file));
    else sendSequence(projectId, group);
  }
}

function sendSequence(projectId: string, pictures: readonly File[]): void {
  const number = (file: File) => Number(NUMBERED.exec(file.name)![2]);
  const sorted = pictures.toSorted((a, b) => number(a) - number(b));
  const [first, last] = [NUMBERED.exec(sorted[0]!.name)!, NUMBERED.exec(sorted.at(-1)!.name)!];
  const missing = number(sorted.at(-1)!) - number(sorted[0]!) + 1 - sorted.length;
  if (missing > 0)
    tellWarning(`${first[1]}…: ${missing} numbers are missing; the pictures that are there follow one another.`);
  const name = `${first[1]}[${first[2]}-${last[2]}].${first[3]!.toLowerCase()}`;
  const sequence = randomId() + randomId();
  sorted.forEach((file, index) =>
    sendFile(projectId, file, { filename: name, sequence, index: String(index), count: String(sorted.length) }),
  );
}

/** Sends a bundle; `opened` is told of the project that was made of it. */
export function sendBundle(file: File, opened: (projectId: string) => void): void {
  sendFile('', file, { bundle: 'yes' }, (header) => {
    if (header('X-Taken-Again')) tell('This bundle was taken in before; this is another copy of its project.');
    opened(header('X-Project-Id') ?? '');
  });
}

/** Sends a file in resumable chunks, as new footage or as what `more` says of it. A lost connection goes on where it stopped. */
export function sendFile(
  projectId: string,
  file: File,
  more: Readonly<Record<string, string>> = {},
  done?: (header: (name: string) => string | null) => void,
): void {
  const id = randomId();
  const set = (change: Partial<RunningUpload>) =>
    useUploads.setState(({ running }) =>
      running[id] ? { running: { ...running, [id]: { ...running[id], ...change } } } : { running },
    );
  const forget = () =>
    useUploads.setState(({ running }) => ({
      running: Object.fromEntries(Object.entries(running).filter(([other]) => other !== id)),
    }));
  let upload: Upload | undefined;
  let isStopped = false;
  const stop = () => {
    isStopped = true;
    void upload?.abort(true);
    forget();
  };
  useUploads.setState(({ running }) => ({
    running: { ...running, [id]: { name: file.name, sent: 0, bytes: file.size, stop } },
  }));
  const noAnswer = () => {
    forget();
    tellError(`${file.name} could not be sent: the server does not answer.`, { durationMs: 15_000 });
  };
  // What sends is loaded when there is something to send.
  const start = async () => {
    const { DetailedError, Upload } = await import('tus-js-client');
    if (isStopped) return;
    upload = new Upload(file, {
      endpoint: '/api/uploads',
      chunkSize: CHUNK_BYTES,
      retryDelays: [0, 1000, 3000, 5000, 10_000],
      metadata: { ...(projectId && { projectId }), filename: file.name, ...more },
      removeFingerprintOnSuccess: true,
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        return status === 0 || status >= 500 || status === 423 || status === 429;
      },
      onProgress: (sent) => set({ sent }),
      onSuccess: ({ lastResponse }) => {
        forget();
        const header = (name: string) => lastResponse.getHeader(name) ?? null;
        // The last piece arrived, and the server ended before it took the file in: it does so when it starts again.
        if (!header('X-Footage-Id') && !header('X-Project-Id') && !header('X-Taken'))
          tellWarning(`${file.name} was sent, but not taken in yet: the server takes it in when it starts again.`);
        else done?.(header);
      },
      onError: (error) => {
        const body = error instanceof DetailedError ? error.originalResponse?.getBody() : undefined;
        if (!body) return noAnswer();
        forget();
        tellError(body, { durationMs: 15_000 });
      },
    });
    upload.start();
  };
  start().catch(noAnswer);
}
