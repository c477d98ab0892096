import type { Footage } from '@idle-bend/core/api';
import { availableParallelism } from 'node:os';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { Op } from 'sequelize';
import { Events } from '../events/events.js';
import { MediaRoots } from '../media-roots/media-roots.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootagePaths } from './footage-paths.js';
import { Foreground } from './foreground.js';
import { ReferenceLibrary, type LookedInto, type Taken } from './reference-library.js';

/** How often it is looked whether files are still where, and what, they were. */
const LOOK_MS = 1500;

/** More files than these are looked into together. */
const FEW = 4;

/** So many at a time, first and later: as they come, they can be used, and each time a process starts. */
const FIRST_TOGETHER = 25;

const MOST_TOGETHER = 250;

/** So many processes look into files at once. */
const AT_ONCE = Math.max(2, Math.min(4, availableParallelism()));

/** Few first, then more and more. */
function inParts(files: readonly string[]): (readonly string[])[] {
  const parts: (readonly string[])[] = [];
  let count = FIRST_TOGETHER;
  for (let first = 0; first < files.length; first += count, count = Math.min(MOST_TOGETHER, 4 * count))
    parts.push(files.slice(first, first + count));
  return parts;
}

/** Footage whose files lie in media roots: taken in by the file or by the folder, and watched. */
@Injectable()
export class References implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('references');
  private timer: NodeJS.Timeout | undefined;
  private looking: Promise<void> = Promise.resolve();
  private telling: Promise<void> = Promise.resolve();
  private closing = false;

  constructor(
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly roots: MediaRoots,
    private readonly paths: FootagePaths,
    private readonly library: ReferenceLibrary,
    private readonly analysis: FootageAnalysis,
    private readonly foreground: Foreground,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const where = { reference: { [Op.ne]: null }, fingerprint: null };
    this.tellApart(
      (await FootageRow.findAll({ where, attributes: ['id'] })).map(({ id }) => id),
      false,
    );
    const again = () => {
      this.looking = this.look().catch((error: Error) => this.logger.warn(error.message));
      void this.looking.then(() => (this.timer = setTimeout(again, LOOK_MS).unref()));
    };
    again();
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    await this.telling;
    clearTimeout(this.timer);
    await this.looking;
    clearTimeout(this.timer);
  }

  /** Takes files, and all footage right inside folders, of a media root in. */
  async take(projectId: string, root: string, paths: readonly string[]): Promise<Taken> {
    const files = (await Promise.all(paths.map((path) => this.filesAt(root, path)))).flat();
    return files.length > FEW
      ? this.foreground.taken(() => this.takeMany(projectId, root, files))
      : this.takeFew(projectId, root, files);
  }

  private async takeFew(projectId: string, root: string, files: readonly string[]): Promise<Taken> {
    const [taken, problems]: [Footage[], string[]] = [[], []];
    for (const path of files) {
      try {
        taken.push(await this.library.take(projectId, root, path));
      } catch (error) {
        problems.push((error as Error).message);
      }
    }
    return { taken, problems };
  }

  private async takeMany(projectId: string, root: string, files: readonly string[]): Promise<Taken> {
    await this.projects.row(projectId);
    const [taken, problems]: [Footage[], string[]] = [[], []];
    const missing = await this.library.missing(projectId);
    const parts = inParts(files);
    const begun: Promise<LookedInto | undefined>[] = [];
    for (const [i, paths] of parts.entries()) {
      // Others are looked into meanwhile; what the first tell of their kinds helps with all.
      for (const next of parts.slice(begun.length, i === 0 ? 1 : i + AT_ONCE))
        begun.push(this.library.lookInto(root, next, missing.length > 0).catch(() => undefined));
      const looked = await begun[i]!;
      // Each by itself where one of them is too much for all.
      const some = looked
        ? await this.library
            .takeMany(projectId, looked, missing)
            .catch((error: Error): Taken => ({ taken: [], problems: [error.message] }))
        : await this.takeFew(projectId, root, paths);
      taken.push(...some.taken);
      problems.push(...some.problems);
    }
    this.tellApart(
      taken.flatMap(({ id, fingerprint }) => (fingerprint === null ? [id] : [])),
      true,
    );
    return { taken, problems };
  }

  /** One after another, in the background. */
  private tellApart(ids: readonly string[], areWaiting: boolean): void {
    this.telling = this.telling.then(async () => {
      for (const id of ids)
        if (!this.closing)
          await this.library
            .tellApart(id, areWaiting)
            .catch((error: Error) => this.logger.warn(`A fingerprint could not be kept: ${error.message}`));
    });
  }

  /** A file by itself; the footage of a folder. */
  private async filesAt(root: string, path: string): Promise<string[]> {
    const folder = await this.roots.folder(root, path).catch(() => undefined);
    return folder ? folder.files.map(({ name }) => (path === '' ? name : `${path}/${name}`)) : [path];
  }

  /** Tells windows of files that went, came back or were changed; what could not be prepared without its file is then. */
  private async look(): Promise<void> {
    const rows = await FootageRow.findAll({ where: { reference: { [Op.ne]: null } } });
    const changed = new Set<string>();
    for (const row of rows) {
      const [before, now] = [this.paths.told.get(row.id), this.paths.stateOf(row)];
      this.paths.told.set(row.id, now);
      if (before === undefined || before === now) continue;
      changed.add(row.projectId);
      if (now === 'here') await this.goOn(row);
    }
    const ids = new Set(rows.map(({ id }) => id));
    for (const id of this.paths.told.keys()) if (!ids.has(id)) this.paths.told.delete(id);
    for (const projectId of changed) this.events.tell(projectId, { kind: 'footage' });
  }

  private async goOn(row: FootageRow): Promise<void> {
    const { status, motion, sound } = row;
    if (![status, motion, sound].includes('failed') || !(await this.projects.has(row.projectId))) return;
    await row.update({
      ...(status === 'failed' && { status: 'preparing', problem: null }),
      ...(motion === 'failed' && { motion: 'waiting' }),
      ...(sound === 'failed' && { sound: 'waiting' }),
    });
    this.analysis.begin(row);
  }
}
