import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger, NotFoundException } from '@nestjs/common';
import type { Backup } from '@idle-bend/core/api';
import { parseProject, type Project } from '@idle-bend/core/model';
import { whatChanged } from '@idle-bend/core/edit';
import { allClips, reelFrames } from '@idle-bend/core/reel';
import { resolveReel } from '@idle-bend/core/resolve';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { Config } from '../config.js';

/** What stands in a backup's file. */
interface KeptState {
  readonly name: string;
  readonly version: number;
  /** ISO 8601. */
  readonly keptAt: string;
  readonly document: unknown;
}

/** How many earlier states of a project are kept. */
export const MAX_BACKUPS = 60;
/** Of these last ones all are. */
const LAST = 20;
/** While somebody edits, a state is saved at most this often. */
const BETWEEN_MS = 60_000;

/** Earlier states of projects, as files beside the database, so that they outlive it. */
@Injectable()
export class Backups {
  private readonly logger = new Logger('backups');
  private readonly lastBackupAt = new Map<string, number>();

  constructor(private readonly config: Config) {}

  /** Whether it is time to put a state of a project by. Asks a clock that nobody sets. */
  isDue(projectId: string): boolean {
    const last = this.lastBackupAt.get(projectId);
    return last === undefined || performance.now() - last >= BETWEEN_MS;
  }

  /** Puts a state by. An edit is not refused because this cannot be done. */
  async keep(
    projectId: string,
    { name, version, document }: { name: string; version: number; document: string },
  ): Promise<void> {
    this.lastBackupAt.set(projectId, performance.now());
    try {
      const folder = this.folder(projectId);
      await mkdir(folder, { recursive: true });
      const state: KeptState = { name, version, keptAt: new Date().toISOString(), document: JSON.parse(document) };
      const file = join(folder, fileName(version));
      await writeFile(`${file}.part`, JSON.stringify(state), { flush: true });
      await rename(`${file}.part`, file);
      await this.thin(projectId);
    } catch (error) {
      this.logger.warn(`An earlier state of ${name} could not be saved: ${(error as Error).message}`);
    }
  }

  /** Of every project all but its newest state that can be read goes. */
  async keepNewest(): Promise<void> {
    for (const id of await readdir(this.config.backupFolder)) {
      let isKept = false;
      for (const version of (await this.versions(id)).reverse()) {
        if (isKept) await rm(join(this.folder(id), fileName(version)), { force: true });
        else isKept = (await this.read(id, version)) !== undefined;
      }
    }
  }

  async forget(projectId: string): Promise<void> {
    await rm(this.folder(projectId), { recursive: true, force: true });
  }

  async list(projectId: string): Promise<Backup[]> {
    const states = await Promise.all((await this.versions(projectId)).map((version) => this.read(projectId, version)));
    let before: Project | undefined;
    return states
      .flatMap((state) => {
        if (!state) return [];
        const project = readable(state);
        const backup = described(state, project, before);
        before = project;
        return [backup];
      })
      .reverse();
  }

  /** The document of an earlier state, migrated where it is of an older version. */
  async document(projectId: string, version: number): Promise<Project> {
    const state = await this.read(projectId, version);
    if (!state) throw new NotFoundException('There is no such earlier state of this project.');
    return parseProject(state.document);
  }

  /** The newest state that can be read of every project that has one and is not among `known`. One that is damaged, or that a newer program wrote, is passed over. */
  async newest(
    known: ReadonlySet<string>,
  ): Promise<{ id: string; name: string; version: number; document: Project }[]> {
    const ids = (await readdir(this.config.backupFolder)).filter((id) => !known.has(id));
    const found = ids.map(async (id) => {
      for (const version of (await this.versions(id)).reverse()) {
        try {
          const state = await this.read(id, version);
          if (state)
            return [{ id, name: String(state.name).slice(0, 500), version, document: parseProject(state.document) }];
        } catch (error) {
          this.logger.warn(
            `Earlier state ${version} of project ${id} cannot be read (${(error as Error).message}); the one before it is looked at.`,
          );
        }
      }
      return [];
    });
    return (await Promise.all(found)).flat();
  }

  /** Of more than are kept the one goes that leaves the smallest hole: the older, the sparser. */
  private async thin(projectId: string): Promise<void> {
    const versions = await this.versions(projectId);
    while (versions.length > MAX_BACKUPS) {
      let gone = 1;
      for (let i = 1; i < versions.length - LAST; i++) if (hole(versions, i) < hole(versions, gone)) gone = i;
      await rm(join(this.folder(projectId), fileName(versions[gone]!)), { force: true });
      versions.splice(gone, 1);
    }
  }

  private async versions(projectId: string): Promise<number[]> {
    const names = await readdir(this.folder(projectId)).catch(() => []);
    return names.flatMap((name) => (/^\d{8}\.json$/.test(name) ? [parseInt(name)] : [])).sort((a, b) => a - b);
  }

  /** One that cannot be read is left out; the others are there all the same. */
  private async read(projectId: string, version: number): Promise<KeptState | undefined> {
    try {
      return JSON.parse(await readFile(join(this.folder(projectId), fileName(version)), 'utf8')) as KeptState;
    } catch {
      return undefined;
    }
  }

  private folder(projectId: string): string {
    return join(this.config.backupFolder, projectId);
  }
}

const fileName = (version: number) => `${String(version).padStart(8, '0')}.json`;
const hole = (versions: readonly number[], i: number) => versions[i + 1]! - versions[i - 1]!;

function readable({ document }: KeptState): Project | undefined {
  try {
    return parseProject(document);
  } catch {
    return undefined;
  }
}

/** Of one that cannot be read, that it is there. */
function described({ version, keptAt }: KeptState, project: Project | undefined, before: Project | undefined): Backup {
  if (!project) return { version, keptAt, clips: 0, frames: 0, changed: null, shows: [] };
  const frames = reelFrames(project);
  const show = resolveReel(project);
  const shows = [0, Math.floor(frames / 2), frames - 1].flatMap((frame) => {
    const { clipFrame } = show(frame);
    if (!clipFrame) return [];
    const { source, position } = clipFrame;
    const at = Math.round(frameOfPosition(source, position));
    return [{ footageId: source.id, frame: Math.max(0, Math.min(source.frames - 1, at)) }];
  });
  const changed = before ? whatChanged(before, project) : null;
  return { version, keptAt, clips: allClips(project).length, frames, changed, shows };
}
