import { execFile } from 'node:child_process';

export interface CommandResult {
  readonly status: number;
  readonly stdout: string;
  readonly stderr: string;
}

/** Runs `idle-bend` with these arguments and waits for its end. */
export const runCommand = (args: readonly string[]): Promise<CommandResult> =>
  new Promise((resolve) => {
    const options = { env: { ...process.env, NODE_OPTIONS: '' } };
    execFile(process.execPath, ['bin/idle-bend', ...args], options, (error, stdout, stderr) =>
      resolve({ status: Number(error?.code ?? 0), stdout, stderr }),
    );
  });
