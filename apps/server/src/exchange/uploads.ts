import { readdir, rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import {
  HttpException,
  Injectable,
  Logger,
  type OnApplicationBootstrap,
  type OnApplicationShutdown,
} from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core/foundation';
import { MediaError } from '@idle-bend/media';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { Bundles } from './bundles.js';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { Sequences } from '../footage/sequences.js';
import { FootageLibrary } from '../footage/footage-library.js';

/** The largest file taken: 1 TiB. */
const MAX_BYTES = 2 ** 40;

/** Uploads that are under way at once, and how long one may rest before it is given up. */
const MAX_UNFINISHED = 2000;
const EXPIRES_MS = 24 * 3600 * 1000;
const CLEAN_UP_MS = 3600 * 1000;

interface Answer {
  readonly status_code: number;
  readonly headers?: Record<string, string>;
}

/**
 * Resumable uploads over the tus protocol, at /api/uploads. A finished file is looked into at once and becomes footage, or is refused in a
 * sentence and removed; one that was finished when the server ended is taken in when it starts again.
 */
@Injectable()
export class Uploads implements OnApplicationBootstrap, OnApplicationShutdown {
  readonly server: Server;
  private readonly logger = new Logger('uploads');
  private readonly store: FileStore;
  /** What uploads that have begun may still bring, in bytes. */
  private promised = new Map<string, number>();
  private cleaning: ReturnType<typeof setInterval> | undefined;

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly footage: FootageLibrary,
    private readonly sequences: Sequences,
    private readonly bundles: Bundles,
  ) {
    this.store = new FileStore({ directory: this.config.uploadFolder, expirationPeriodInMilliseconds: EXPIRES_MS });
    this.server = new Server({
      path: '/api/uploads',
      datastore: this.store,
      maxSize: MAX_BYTES,
      relativeLocation: true,
      respectForwardedHeaders: false,
      onUploadCreate: async (_request, upload) => {
        await this.refuseNoRoom(upload);
        return {};
      },
      onUploadFinish: (_request, upload) => this.finish(upload),
    });
  }

  async onApplicationBootstrap(): Promise<void> {
    const cleanUp = () =>
      void this.server.cleanUpExpiredUploads().catch((error: Error) => this.logger.warn(error.message));
    this.cleaning = setInterval(cleanUp, CLEAN_UP_MS).unref();
    cleanUp();
    for (const { upload, held } of await this.unfinished()) {
      if (upload.size === undefined || held < upload.size) continue;
      const name = upload.metadata?.['filename'] ?? upload.id;
      // The others of its pictures are gone with the restart.
      if (upload.metadata?.['sequence']) await this.forget(upload.id);
      else
        await this.finish(upload).catch((error: { body?: string }) => {
          this.logger.warn(`${name}: ${error.body}`);
          const projectId = upload.metadata?.['projectId'];
          if (projectId)
            this.events.tell(projectId, {
              kind: 'import-failed',
              name,
              message: error.body ?? 'could not be taken in',
            });
        });
    }
  }

  onApplicationShutdown(): void {
    clearInterval(this.cleaning);
  }

  /** Every upload that has begun, and how much of it is here. */
  private async unfinished(): Promise<{ readonly upload: Upload; readonly held: number }[]> {
    const names = await readdir(this.config.uploadFolder).catch(() => []);
    const all = names
      .filter((name) => name.endsWith('.json'))
      .map(async (name) => {
        try {
          const upload = await this.store.getUpload(name.slice(0, -'.json'.length));
          return [{ upload, held: upload.offset }];
        } catch {
          return [];
        }
      });
    return (await Promise.all(all)).flat();
  }

  /** An upload says how long it is, and what others under way have still to bring is theirs. */
  private async refuseNoRoom({ id, metadata, size, sizeIsDeferred }: Upload): Promise<void> {
    if (!metadata?.['filename'] || !(metadata['projectId'] || metadata['bundle']))
      throw { status_code: 422, body: 'An upload needs the metadata projectId and filename, or bundle and filename.' };
    if (sizeIsDeferred || size === undefined)
      throw { status_code: 411, body: `${metadata['filename']}: an upload has to say how long it is.` };
    const { bavail, bsize } = await statfs(this.config.uploadFolder);
    const fits = () =>
      this.promised.size < MAX_UNFINISHED &&
      size + [...this.promised.values()].reduce((sum, bytes) => sum + bytes, 0) <= bavail * bsize;
    // What is counted may have ended, or come along, meanwhile: only then is the folder looked at.
    if (!fits())
      this.promised = new Map(
        (await this.unfinished()).map(({ upload, held }) => [upload.id, Math.max(0, (upload.size ?? 0) - held)]),
      );
    if (this.promised.size >= MAX_UNFINISHED)
      throw { status_code: 429, body: `${this.promised.size} uploads are unfinished; let some of them end first.` };
    if (!fits())
      throw {
        status_code: 507,
        body: `${metadata['filename']} does not fit on the disk of the data folder; free some first.`,
      };
    this.promised.set(id, size);
  }

  /** Takes a whole file in. Throws what the protocol's server answers with. */
  private async finish(upload: Upload): Promise<Answer> {
    const file = join(this.config.uploadFolder, upload.id);
    const metadata = upload.metadata as Record<string, string>;
    const name = metadata['filename']!;
    try {
      return await this.take(metadata, name, file);
    } catch (error) {
      const known = error instanceof MediaError || error instanceof InvalidInput || error instanceof HttpException;
      if (!known) this.logger.error((error as Error).stack ?? String(error));
      throw {
        status_code: error instanceof HttpException ? error.getStatus() : known ? 422 : 500,
        body: known ? error.message : `${name} could not be taken in; the server's log says more.`,
      };
    } finally {
      await this.forget(upload.id);
    }
  }

  private async forget(id: string): Promise<void> {
    this.promised.delete(id);
    await rm(join(this.config.uploadFolder, id), { force: true });
    await rm(join(this.config.uploadFolder, `${id}.json`), { force: true });
  }

  private async take(metadata: Record<string, string>, name: string, file: string): Promise<Answer> {
    const { projectId, sequence, index, count, bundle, replaces } = metadata;
    if (bundle) {
      const { id, again } = await this.bundles.take(file);
      return { status_code: 200, headers: { 'X-Project-Id': id, ...(again && { 'X-Taken-Again': 'yes' }) } };
    }
    if (sequence) {
      await this.sequences.take(
        { projectId: projectId!, sequence, name, index: Number(index), count: Number(count) },
        file,
      );
      return { status_code: 200, headers: { 'X-Taken': 'yes' } };
    }
    const taken = replaces
      ? await this.footage.replace(replaces, file, name)
      : await this.footage.take(projectId!, file, name, 'move');
    return { status_code: 200, headers: { 'X-Footage-Id': taken.id } };
  }
}
