import 'reflect-metadata';
import { createApp } from './app.js';
import { Config } from './config.js';
import { DemoProject } from './demo/demo-project.js';
import { lockData } from './storage/data-lock.js';
import { writeAddress } from './storage/address.js';
import { openDatabase } from './storage/database.js';

// One thing that goes wrong in the background takes nothing else along.
process.on('unhandledRejection', (error) => process.stderr.write(`${(error as Error).stack ?? String(error)}\n`));

/** A server that was asked to end does, whatever is still under way: nothing that is kept depends on it. */
const END_MS = 20_000;
const endSurely = () =>
  setTimeout(() => {
    const left = process.getActiveResourcesInfo().join(', ');
    process.stderr.write(`It was asked to end ${END_MS / 1000} s ago, and ends now with ${left} still open.\n`);
    process.exit(1);
  }, END_MS).unref();
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, endSurely);

try {
  const config = new Config(process.argv.slice(2), process.env);
  await lockData(config.data);
  await openDatabase(config.database, (setAside) =>
    process.stderr.write(
      `The database is damaged. It was set aside as ${setAside}; projects come back from their earlier states, footage from its folders.\n`,
    ),
  );
  const app = await createApp(config);
  await app.listen(config.port, config.host);
  if (config.demo) await app.get(DemoProject).load();
  const { port } = app.getHttpServer().address() as { port: number };
  await writeAddress(config.data, config.host, port);
  process.stdout.write(
    `Idle Bend is at http://${config.host}:${port}/${config.demo ? '  (Marble Parade is loaded)' : ''}\n`,
  );
} catch (error) {
  const { code, message } = error as NodeJS.ErrnoException;
  process.stderr.write(
    code === 'EADDRINUSE'
      ? 'That port is taken; choose another with --port.\n'
      : `Idle Bend could not start: ${message}\n`,
  );
  process.exit(1);
}
