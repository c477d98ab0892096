import { join } from 'node:path';
import sqlite3 from 'sqlite3';

/**
 * Holds a data folder for this process alone, by a lock of the operating system on a file in it: it is gone with the process, however that
 * ends. Throws where another server holds it.
 */
export async function lockData(folder: string): Promise<void> {
  const file = join(folder, 'server.lock');
  const database = await new Promise<sqlite3.Database>((resolve, reject) => {
    const opening = new sqlite3.Database(file, (error) =>
      error ? reject(new Error(`${file} cannot be opened: ${error.message}`)) : resolve(opening),
    );
  });
  await new Promise<void>((resolve, reject) =>
    database.exec('PRAGMA locking_mode = EXCLUSIVE; BEGIN EXCLUSIVE', (error) => {
      if (!error) return resolve();
      database.close();
      reject(
        new Error(`another server uses the data folder ${folder}; end it first, or name another folder with --data`),
      );
    }),
  );
  held.push(database);
}

/** Kept, so that nothing closes them. */
const held: sqlite3.Database[] = [];
