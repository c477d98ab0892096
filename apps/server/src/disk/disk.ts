import { readdir, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import type { DiskUse, DroppableKind } from '@idle-bend/core/api';
import { Injectable } from '@nestjs/common';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { FootageBin } from '../footage/footage-bin.js';
import { PIECES, PROXY, STRIP } from '../footage/footage-paths.js';
import { MotionCacheStore } from '../footage/motion-cache.js';
import { Backups } from '../projects/backups.js';
import { Renders } from '../renders/renders.js';
import { FootageRow, RenderRow } from '../storage/rows.js';
import { bytesIn } from './bytes-in.js';

/** Renders nothing is under way of, and nobody goes on with. */
const OVER = ['done', 'failed', 'cancelled'];

/** What the data folder holds, and what of it can go. */
@Injectable()
export class Disk {
  constructor(
    private readonly config: Config,
    private readonly motion: MotionCacheStore,
    private readonly renders: Renders,
    private readonly backups: Backups,
    private readonly footageBin: FootageBin,
    private readonly events: Events,
  ) {}

  async use(): Promise<DiskUse> {
    const { mediaFolder, renderFolder, backupFolder, motionFolder, uploadFolder, watchedFolder, data } = this.config;
    const { originals, proxies, found } = await this.footage(mediaFolder);
    const [renders, states, motion, uploads, watched] = await Promise.all(
      [renderFolder, backupFolder, motionFolder, uploadFolder, watchedFolder].map(bytesIn),
    );
    const { bavail, bsize } = await statfs(data);
    return {
      bytes: {
        originals,
        proxies,
        found,
        renders: renders!,
        states: states!,
        motion: motion!,
        uploads: uploads! + watched!,
      },
      freeBytes: bavail * bsize,
    };
  }

  /** They are made again when their project is opened; those of an open one at once. */
  private async dropProxies(): Promise<void> {
    const rows = await FootageRow.unscoped().findAll({ where: { status: 'ready' } });
    for (const { id } of rows) await this.footageBin.freeInTurn(id);
    for (const projectId of new Set(rows.map((row) => row.projectId))) this.events.tell(projectId, { kind: 'footage' });
  }

  /** Of the folders of footage: originals that are copies, proxies, and what was found in them. What lies elsewhere counts nothing. */
  private async footage(folder: string): Promise<{ originals: number; proxies: number; found: number }> {
    const rows = new Map(
      (await FootageRow.unscoped().findAll({ attributes: ['id', 'fileName'] })).map((row) => [row.id, row.fileName]),
    );
    const sums = { originals: 0, proxies: 0, found: 0 };
    for (const id of await readdir(folder).catch(() => []))
      for (const entry of await readdir(join(folder, id), { withFileTypes: true }).catch(() => [])) {
        const path = join(folder, id, entry.name);
        const kind =
          entry.name === rows.get(id) ? 'originals' : [PROXY, STRIP, PIECES].includes(entry.name) ? 'proxies' : 'found';
        if (entry.isDirectory()) sums[kind] += await bytesIn(path);
        else if (entry.isFile()) sums[kind] += (await stat(path).catch(() => undefined))?.size ?? 0;
      }
    return sums;
  }

  /** Deletes what is made again when it is wanted (motion, proxies), or is of no use to what is under way: renders that are over, all but the newest earlier state. */
  async drop(kind: DroppableKind): Promise<void> {
    if (kind === 'motion') return this.motion.clear();
    if (kind === 'states') return this.backups.keepNewest();
    if (kind === 'proxies') return this.dropProxies();
    for (const { id } of await RenderRow.findAll({ attributes: ['id'], where: { status: OVER } }))
      await this.renders.remove(id);
  }
}
