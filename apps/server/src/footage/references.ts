import type { Footage } from '@idle-bend/core/api';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { Op } from 'sequelize';
import { Events } from '../events/events.js';
import { MediaRoots } from '../media-roots/media-roots.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootagePaths } from './footage-paths.js';
import { Foreground } from './foreground.js';
import { ReferenceLibrary, type Taken } from './reference-library.js';

/** How often it is looked whether files are still where, and what, they were. */
const LOOK_MS = 1500;

/** More files than these are looked into together. */
const FEW = 4;

/** So many at a time, first and later: as they come, they can be used, and each time a process starts. */
const FIRST_TOGETHER = 25;

const MOST_TOGETHER = 200;

/** Footage whose files lie in media roots: taken in by the file or by the folder, and watched. */
@Injectable()
export class References implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('references');
  private timer: NodeJS.Timeout | undefined;
  private looking: Promise<void> = Promise.resolve();

  constructor(
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly roots: MediaRoots,
    private readonly paths: FootagePaths,
    private readonly library: ReferenceLibrary,
    private readonly analysis: FootageAnalysis,
    private readonly foreground: Foreground,
  ) {}

  onApplicationBootstrap(): void {
    const again = () => {
      this.looking = this.look().catch((error: Error) => this.logger.warn(error.message));
      void this.looking.then(() => (this.timer = setTimeout(again, LOOK_MS).unref()));
    };
    again();
  }

  async onApplicationShutdown(): Promise<void> {
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
    const [taken, problems]: [Footage[], string[]] = [[], []];
    let count = FIRST_TOGETHER;
    for (let first = 0; first < files.length; first += count, count = Math.min(MOST_TOGETHER, 2 * count)) {
      const paths = files.slice(first, first + count);
      // Each by itself where one of them is too much for all.
      const some = await this.library
        .takeMany(projectId, root, paths)
        .catch(() => this.takeFew(projectId, root, paths));
      taken.push(...some.taken);
      problems.push(...some.problems);
    }
    return { taken, problems };
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
