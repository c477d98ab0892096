import { rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core';
import { MediaError } from '@idle-bend/media';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import { Bundles } from '../bundles/bundles.js';
import { Config } from '../config.js';
import { Sequences } from './sequences.js';
import { FootageStore } from './footage.js';

/** The largest file taken: 1 TiB. */
const MOST_BYTES = 2 ** 40;

/** Resumable uploads over the tus protocol, at /api/uploads. A finished file is looked into at once and becomes footage, or is refused in a sentence and removed. */
@Injectable()
export class Uploads {
  readonly server: Server;

  constructor(
    private readonly config: Config,
    private readonly footage: FootageStore,
    private readonly sequences: Sequences,
    private readonly bundles: Bundles,
  ) {
    this.server = new Server({
      path: '/api/uploads',
      datastore: new FileStore({ directory: this.config.uploadFolder, expirationPeriodInMilliseconds: 7 * 24 * 3600 * 1000 }),
      maxSize: MOST_BYTES,
      relativeLocation: true,
      respectForwardedHeaders: false,
      onUploadCreate: async (_request, upload) => {
        if (!upload.metadata?.['filename'] || !(upload.metadata['projectId'] || upload.metadata['bundle']))
          throw { status_code: 422, body: 'An upload needs the metadata projectId and filename, or bundle and filename.' };
        const { bavail, bsize } = await statfs(this.config.uploadFolder);
        if ((upload.size ?? 0) > bavail * bsize)
          throw { status_code: 507, body: `${upload.metadata['filename']} does not fit on the disk of the data folder; free some first.` };
        return {};
      },
      onUploadFinish: async (_request, upload): Promise<{ status_code: number; headers?: Record<string, string> }> => {
        const file = join(this.config.uploadFolder, upload.id);
        const name = upload.metadata!['filename']!;
        try {
          const { projectId, sequence, index, count, bundle } = upload.metadata as Record<string, string>;
          if (bundle) {
            const { id } = await this.bundles.take(file);
            return { status_code: 200, headers: { 'X-Project-Id': id } };
          }
          if (sequence) {
            await this.sequences.take({ projectId: projectId!, sequence, name, index: Number(index), count: Number(count) }, file);
            return { status_code: 200 };
          }
          const replaced = upload.metadata!['replaces'];
          const taken = replaced
            ? await this.footage.replace(replaced, file, name)
            : await this.footage.take(upload.metadata!['projectId']!, file, name, 'move');
          return { status_code: 200, headers: { 'X-Footage-Id': taken.id } };
        } catch (error) {
          const known = error instanceof MediaError || error instanceof InvalidInput;
          throw {
            status_code: known ? 422 : ((error as { status?: number }).status ?? 500),
            body: known ? error.message : `${name} could not be taken in: ${(error as Error).message}`,
          };
        } finally {
          await rm(file, { force: true });
          await rm(`${file}.json`, { force: true });
        }
      },
    });
    void this.server.cleanUpExpiredUploads().catch(() => undefined);
  }
}
