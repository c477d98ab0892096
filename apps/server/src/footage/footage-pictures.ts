import {
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
  type OnApplicationShutdown,
} from '@nestjs/common';
import type { Patch } from '@idle-bend/core/model';
import type { Sample } from '@idle-bend/core/sampling';
import { Config } from '../config.js';
import { runJob } from '../jobs/job.js';
import { Stills } from '../jobs/stills.js';
import { factsOf, FootagePaths } from './footage-paths.js';
import { FootageMedia } from './footage-media.js';
import { FootageRows } from './footage-rows.js';

/** A patch is followed through so many frames at once. */
const MAX_FOLLOWED = 3000;

/** Pictures of footage that are made or looked at when somebody asks. */
@Injectable()
export class FootagePictures implements OnApplicationShutdown {
  private readonly stills = new Stills();

  constructor(
    private readonly config: Config,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly media: FootageMedia,
  ) {}

  onApplicationShutdown(): void {
    this.stills.close();
  }

  /** One frame made from the original at full size, as PNG. */
  async still(id: string, sample: Sample): Promise<Buffer> {
    const row = await this.rows.row(id);
    const motion = { folder: this.config.motionFolder, maxBytes: this.config.motionBytes };
    return this.stills.make({ file: this.paths.original(row), name: row.name, sample, motion });
  }

  /** Where a patch of the picture is in every frame from one to another. */
  async followPatch(
    id: string,
    from: number,
    to: number,
    patch: Patch,
  ): Promise<readonly (readonly [number, number])[]> {
    const row = await this.rows.row(id);
    if (row.status !== 'ready') throw new NotFoundException(`"${row.name}" is not prepared yet.`);
    const frames = factsOf(row).picture?.frames ?? 0;
    if (Math.max(from, to) >= frames) throw new NotFoundException(`"${row.name}" has frames 0 to ${frames - 1}.`);
    if (Math.abs(to - from) > MAX_FOLLOWED)
      throw new UnprocessableEntityException(
        `${Math.abs(to - from)} frames are more than the ${MAX_FOLLOWED} a patch is followed through.`,
      );
    const proxy = await this.media.file(id, 'proxy');
    return runJob('track', { proxy, name: row.name, from, to, patch }).result.catch((error: Error) => {
      throw new UnprocessableEntityException(error.message);
    });
  }
}
