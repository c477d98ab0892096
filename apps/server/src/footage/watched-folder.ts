import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { lstat, readdir, stat } from 'node:fs/promises';
import { basename, join, relative, sep } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { fingerprintOf } from '@idle-bend/media';
import { watch, type FSWatcher } from 'chokidar';
import { Op } from 'sequelize';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { Projects } from '../projects/projects.js';
import { FootageRow, WatchedRow } from '../storage/rows.js';
import { FootageLibrary } from './footage-library.js';

/** A new folder is looked through once more after so long. */
const LOOK_AGAIN_MS = 3000;

/** Imports what is put into `watched/<project id>` in the data folder, once it has stopped growing. The file itself stays. */
@Injectable()
export class WatchedFolder implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('watched');
  private watcher: FSWatcher | undefined;
  /** Files that were told of. */
  private readonly seen = new Set<string>();

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly footage: FootageLibrary,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    for (const { id } of await this.projects.list()) await this.projects.watchedFolder(id);
    this.watcher = watch(this.config.watchedFolder, {
      depth: 1,
      followSymlinks: false,
      awaitWriteFinish: { stabilityThreshold: 1500, pollInterval: 200 },
    });
    this.watcher.on('add', (path) => {
      this.seen.add(path);
      void this.arrived(path);
    });
    this.watcher.on('unlink', (path) => this.seen.delete(path));
    this.watcher.on('addDir', (folder) => setTimeout(() => void this.lookAgain(folder), LOOK_AGAIN_MS).unref());
    // Nobody is answered before new folders are noticed.
    await once(this.watcher, 'ready');
  }

  /** A folder is read before it is watched: what is put there in between is told to nobody. */
  private async lookAgain(folder: string): Promise<void> {
    const names = await readdir(folder).catch(() => []);
    const missed = names.map((name) => join(folder, name)).filter((path) => !this.seen.has(path));
    for (const path of missed) if ((await lstat(path).catch(() => undefined))?.isFile()) this.watcher?.add(path);
  }

  async onApplicationShutdown(): Promise<void> {
    await this.watcher?.close();
  }

  /** Whether that file was taken in before, under this name or another. One from before that was written down is known by its name. */
  private async isKnown(projectId: string, path: string, name: string): Promise<boolean> {
    const { size, mtimeMs } = await stat(path);
    const rows = await WatchedRow.findAll({ where: { projectId } });
    if (rows.some((row) => row.name === name && Number(row.bytes) === size && row.modifiedMs === mtimeMs)) return true;
    const fingerprint = await fingerprintOf(path);
    const same = rows.find((row) => row.fingerprint === fingerprint);
    if (same) await same.update({ name, bytes: size, modifiedMs: mtimeMs });
    else if (
      await FootageRow.findOne({
        where: {
          projectId,
          [Op.or]: [
            { name, fingerprint },
            { name, fingerprint: null },
          ],
        },
      })
    )
      await this.remember(projectId, path, name);
    else return false;
    return true;
  }

  private async remember(projectId: string, path: string, name: string): Promise<void> {
    const { size, mtimeMs } = await stat(path);
    await WatchedRow.create({
      id: randomUUID(),
      projectId,
      name,
      bytes: size,
      modifiedMs: mtimeMs,
      fingerprint: await fingerprintOf(path),
    });
  }

  private async arrived(path: string): Promise<void> {
    const [projectId, name] = relative(this.config.watchedFolder, path).split(sep);
    if (!projectId || !name || basename(path).startsWith('.')) return;
    // A link could name any file of this machine.
    if (!(await lstat(path).catch(() => undefined))?.isFile()) return;
    try {
      if (await this.isKnown(projectId, path, name)) return;
      await this.footage.take(projectId, path, name, 'copy');
      await this.remember(projectId, path, name);
    } catch (error) {
      this.logger.warn((error as Error).message);
      this.events.tell(projectId, { kind: 'import-failed', name, message: (error as Error).message });
    }
  }
}
