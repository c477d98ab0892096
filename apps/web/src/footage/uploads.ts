import { toast } from 'sonner';
import { DetailedError, Upload } from 'tus-js-client';
import { create } from 'zustand';

export interface RunningUpload {
  readonly name: string;
  readonly sent: number;
  readonly bytes: number;
  readonly stop: () => void;
}

/** Files on their way to the server; they go on while the editor works elsewhere. */
export const useUploads = create<{ readonly running: Readonly<Record<string, RunningUpload>> }>(() => ({ running: {} }));

const CHUNK_BYTES = 16 * 1024 * 1024;

/** Sends a file in resumable chunks, as new footage or to stand in for some that is there. A lost connection goes on where it stopped. */
export function sendFile(projectId: string, file: File, replaces?: string): void {
  const id = crypto.randomUUID();
  const set = (change: Partial<RunningUpload>) =>
    useUploads.setState(({ running }) => (running[id] ? { running: { ...running, [id]: { ...running[id], ...change } } } : { running }));
  const forget = () => useUploads.setState(({ running }) => ({ running: Object.fromEntries(Object.entries(running).filter(([other]) => other !== id)) }));
  const upload = new Upload(file, {
    endpoint: '/api/uploads',
    chunkSize: CHUNK_BYTES,
    retryDelays: [0, 1000, 3000, 5000, 10_000],
    metadata: { projectId, filename: file.name, ...(replaces && { replaces }) },
    removeFingerprintOnSuccess: true,
    onShouldRetry: (error) => {
      const status = (error as DetailedError).originalResponse?.getStatus() ?? 0;
      return status === 0 || status >= 500 || status === 423;
    },
    onProgress: (sent) => set({ sent }),
    onSuccess: () => forget(),
    onError: (error) => {
      forget();
      const body = error instanceof DetailedError ? error.originalResponse?.getBody() : undefined;
      toast.error(body || `${file.name} could not be sent: the server does not answer.`, { duration: 15_000 });
    },
  });
  const stop = () => {
    void upload.abort(true);
    forget();
  };
  useUploads.setState(({ running }) => ({ running: { ...running, [id]: { name: file.name, sent: 0, bytes: file.size, stop } } }));
  upload.start();
}
