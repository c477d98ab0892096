import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { RunningServer } from '../apps/server/test/running-server.js';

/** The demo's data, once proxies, sound and motion are there: every server of the tests begins with a copy and has nothing to do in the background. */
export const PREPARED = 'IDLE_BEND_PREPARED_DEMO';

/**
 * Prepares the demo's data once for all workers, where the whole interface is tested. A single file of tests does not wait for it: its
 * servers prepare the demo themselves, meanwhile.
 */
export default async function prepareDemo(): Promise<(() => void) | undefined> {
  if (!process.env['IDLE_BEND_PREPARE_DEMO']) return undefined;
  const data = mkdtempSync(join(tmpdir(), 'idle-bend-prepared-'));
  const server = await RunningServer.start(data, ['--demo']);
  const isDone = (footage: readonly any[]) =>
    footage.every(
      ({ status, sound, motion, facts }) =>
        status === 'ready' && sound !== 'waiting' && (!facts.picture || motion === 'ready'),
    );
  await server.until(() => server.footage('marble-parade'), isDone, 600);
  await server.kill('SIGTERM');
  process.env[PREPARED] = data;
  return () => rmSync(data, { recursive: true, force: true });
}
