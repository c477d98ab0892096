import { randomUUID } from 'node:crypto';
import { lstat, stat } from 'node:fs/promises';
import { basename, relative, sep } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { fingerprintOf } from '@idle-bend/media';
import { watch, type FSWatcher } from 'chokidar';
import { Op } from 'sequelize';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { Projects } from '../projects/projects.js';
import { FootageRow, WatchedRow } from '../storage/rows.js';
import { FootageLibrary } from './footage-library.js';

/** Imports what is put into `watched/<project id>` in the data folder, once it has stopped growing. The file itself stays. */
@Injectable()
export class WatchedFolder implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('watched');
  private watcher: FSWatcher | undefined;

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
    this.watcher.on('add', (path) => void this.arrived(path));
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
