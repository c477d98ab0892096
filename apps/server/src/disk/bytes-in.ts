import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** The sum of a folder's files; 0 of one that is not there. What links lead to counts nothing. */
export async function bytesIn(folder: string): Promise<number> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => []);
  const sizes = entries.map(async (entry) =>
    entry.isFile()
      ? stat(join(entry.parentPath, entry.name)).then(
          ({ size }) => size,
          () => 0,
        )
      : 0,
  );
  return (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
}
