import { InvalidInput } from '../../foundation/errors.js';
import { whole } from '../../foundation/readers.js';
import type { Migration } from './migration.js';
import { toVersion10 } from './to-version-10.js';
import { toVersion2 } from './to-version-2.js';
import { toVersion3 } from './to-version-3.js';
import { toVersion4 } from './to-version-4.js';
import { toVersion5 } from './to-version-5.js';
import { toVersion6 } from './to-version-6.js';
import { toVersion7 } from './to-version-7.js';
import { toVersion8 } from './to-version-8.js';
import { toVersion9 } from './to-version-9.js';

/** The version of the document this code writes; older ones are migrated when read. */
export const PROJECT_VERSION = 10;

/** By the version a migration leads to. */
const MIGRATIONS: Readonly<Record<number, Migration>> = {
  2: toVersion2,
  3: toVersion3,
  4: toVersion4,
  5: toVersion5,
  6: toVersion6,
  7: toVersion7,
  8: toVersion8,
  9: toVersion9,
  10: toVersion10,
};

/** Lifts a document to version `target`, one version at a time. Throws `InvalidInput` for a newer or unknown version. */
export function migrate(
  document: Record<string, unknown>,
  target: number = PROJECT_VERSION,
  migrations: Readonly<Record<number, Migration>> = MIGRATIONS,
): Record<string, unknown> {
  let current = document;
  for (;;) {
    const version = whole(current['version'], 'project, version', 1);
    if (version === target) return current;
    if (version > target)
      throw new InvalidInput(
        'project, version',
        `is ${version}; this program reads up to ${target}, so a newer one wrote it`,
      );
    const lift = migrations[version + 1];
    if (!lift) throw new InvalidInput('project, version', `${version} cannot be read any more`);
    current = { ...lift(current), version: version + 1 };
  }
}
