/** What a job may use while it runs. */
interface JobContext {
  /** Aborted when the job is cancelled. */
  readonly signal: AbortSignal;
  /** Says how far it is; the parent hears of it a few times a second. */
  readonly onProgress: (done: number, total: number) => void;
}

/**
 * Work that runs in a process of its own: what it is given and what it answers are plain values, which are copied between the processes.
 * `run` throws `MediaError` or `InvalidInput` with a sentence that may be shown; anything else is a fault of ours.
 */
export interface JobKind<Input, Output> {
  /** Seconds it may say nothing (those that never do: may take) before it is given up. */
  readonly silentSeconds: number;
  /** Whether nobody waits for it, so that everything else comes first. */
  readonly isIdle?: boolean;
  /** Whether somebody looks on until it is done. */
  readonly isAwaited?: boolean;
  run(input: Input, context: JobContext): Promise<Output>;
}

export const defineJob = <Input, Output>(kind: JobKind<Input, Output>): JobKind<Input, Output> => kind;
