import { lstat } from 'node:fs/promises';
import { basename, relative, sep } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { watch, type FSWatcher } from 'chokidar';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { Projects } from '../projects/projects.js';
import { FootageRow } from '../storage/rows.js';
import { FootageStore } from './footage.js';

/** Imports what is put into `watched/<project id>` in the data folder, once it has stopped growing. The file itself stays. */
@Injectable()
export class WatchedFolder implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('watched');
  private watcher: FSWatcher | undefined;

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly footage: FootageStore,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    for (const { id } of await this.projects.list()) await this.projects.watchedFolder(id);
    this.watcher = watch(this.config.watchedFolder, { depth: 1, followSymlinks: false, awaitWriteFinish: { stabilityThreshold: 1500, pollInterval: 200 } });
    this.watcher.on('add', (path) => void this.arrived(path));
  }

  async onApplicationShutdown(): Promise<void> {
    await this.watcher?.close();
  }

  private async arrived(path: string): Promise<void> {
    const [projectId, name] = relative(this.config.watchedFolder, path).split(sep);
    if (!projectId || !name || basename(path).startsWith('.')) return;
    // A link could name any file of this machine.
    if (!(await lstat(path).catch(() => undefined))?.isFile()) return;
    if (await FootageRow.findOne({ where: { projectId, name } })) return;
    try {
      await this.footage.take(projectId, path, name, 'copy');
    } catch (error) {
      this.logger.warn((error as Error).message);
      this.events.tell(projectId, { kind: 'import-failed', name, message: (error as Error).message });
    }
  }
}
