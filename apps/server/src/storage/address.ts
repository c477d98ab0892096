import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';

/** Addresses that stand for all of a machine's. */
const ANY: Readonly<Record<string, string>> = { '0.0.0.0': '127.0.0.1', '::': '[::1]', '::1': '[::1]' };

/**
 * Tells commands of this machine where the server of a data folder listens, in `server.json`. The file stays when the server ends: whether
 * one runs is told by the lock (`lockData`).
 */
export async function writeAddress(data: string, host: string, port: number): Promise<void> {
  const file = join(data, 'server.json');
  await writeFile(`${file}.part`, `${JSON.stringify({ url: `http://${ANY[host] ?? host}:${port}` })}\n`);
  await rename(`${file}.part`, file);
}
