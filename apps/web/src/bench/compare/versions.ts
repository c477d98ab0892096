import { keepVersion, removeVersion, useVersion as putVersion } from '@idle-bend/core/edit';
import { tell } from '../../session/notices.ts';
import { edit } from '../../session/session.ts';
import { attempt, current, newId } from '../../session/command.ts';

/** Keeps the curve of now under the next free name; it can be renamed where versions are listed. */
export function keepThisVersion(): void {
  const bench = current();
  if (!bench) return;
  const name = `version ${bench.clip.versions.length + 1}`;
  edit((project) => keepVersion(project, bench.clip.id, newId('version'), name));
  tell(`Kept as “${name}”.`);
}

export function switchTo(versionId: string): void {
  const bench = current();
  if (bench) attempt(() => edit((project) => putVersion(project, bench.clip.id, versionId)));
}

export function forgetVersion(versionId: string): void {
  const bench = current();
  if (bench) edit((project) => removeVersion(project, bench.clip.id, versionId));
}
