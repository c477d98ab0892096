import {
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
  type OnApplicationShutdown,
} from '@nestjs/common';
import { footageOnReel, insideGroup } from '@idle-bend/core/group';
import type { FrameTimes } from '@idle-bend/core/api';
import type { Frame } from '@idle-bend/core/frame';
import { isGroup, parseProject, type Patch, type Project } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import type { Sample } from '@idle-bend/core/sampling';
import { Config } from '../config.js';
import { MediaLook } from '../media-roots/media-look.js';
import { Projects } from '../projects/projects.js';
import { runJob } from '../jobs/job.js';
import { Stills } from '../jobs/stills.js';
import { factsOf, FootagePaths, isEstimated, referenceOf, refuseEstimated } from './footage-paths.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageMedia } from './footage-media.js';
import { firstPictureOf } from './inspect.js';
import { FootageRows } from './footage-rows.js';

/** A patch is followed through so many frames at once. */
const MAX_FOLLOWED = 3000;

/** Pictures of footage that are made or looked at when somebody asks. */
@Injectable()
export class FootagePictures implements OnApplicationShutdown {
  private readonly stills = new Stills();
  /** A process of its own: whoever looks through a file does not wait for frames at full size. */
  private readonly looking = new Stills();

  constructor(
    private readonly config: Config,
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly media: FootageMedia,
    private readonly analysis: FootageAnalysis,
    private readonly projects: Projects,
    private readonly look: MediaLook,
  ) {}

  onApplicationShutdown(): void {
    this.stills.close();
    this.looking.close();
  }

  /** Somebody is about to look through footage. */
  warmUp(): void {
    this.looking.warmUp();
  }

  /** A small picture that stands for the footage, as JPEG. */
  async poster(id: string): Promise<Buffer> {
    const row = await this.rows.row(id);
    if (!factsOf(row).picture) throw new NotFoundException(`"${row.name}" has no picture.`);
    const original = this.paths.original(row);
    const reference = referenceOf(row);
    return reference ? this.look.picture(reference.root, reference.path) : this.look.pictureOf(original, row.name);
  }

  /** One frame of the original as its proxy has it, in planar codes: what is looked at while there is no proxy. */
  async picture(id: string, frame: number): Promise<Frame> {
    const row = await this.rows.row(id);
    const size = factsOf(row).picture?.proxy;
    if (!size) throw new NotFoundException(`"${row.name}" has no picture.`);
    this.analysis.lookAt(row, frame);
    const first = frame === 0 && this.paths.stateOf(row) === 'here' && firstPictureOf(row.fingerprint);
    if (first && first.format.height === size.height) return first;
    return this.looking.picture({
      kind: 'picture',
      ...this.paths.media(row),
      frame,
      size,
      isEstimated: isEstimated(row),
      ...this.motion,
    });
  }

  /** Somebody sees a frame that this server did not make: what is made ahead goes on there. */
  async lookAt(id: string, frame: number): Promise<void> {
    const row = await this.rows.row(id);
    if (frame < (factsOf(row).picture?.frames ?? 0)) this.analysis.lookAt(row, frame);
  }

  /** When its frames are shown: for browsers that decode the original themselves. 404 where its pictures are not shown as they are. */
  async times(id: string): Promise<FrameTimes> {
    const row = await this.rows.row(id);
    if (isEstimated(row)) throw new NotFoundException(`The frames of "${row.name}" are still being counted.`);
    return this.looking.times({ ...this.paths.media(row), ...this.motion });
  }

  /** One frame made from the original at full size, as PNG. */
  async still(id: string, sample: Sample): Promise<Buffer> {
    const row = await this.rows.row(id);
    refuseEstimated([row]);
    return this.stills.make({
      kind: 'sample',
      ...this.paths.media(row),
      sample,
      ...this.motion,
    });
  }

  /** Frame `frame` of a project's reel, or of the reel inside one of its groups, as a render has it, as PNG. */
  async reelFrame(projectId: string, frame: number, within: string | undefined): Promise<Buffer> {
    const kept = parseProject(JSON.parse((await this.projects.row(projectId)).document));
    if (within !== undefined && !kept.sources.some((source) => source.id === within && isGroup(source)))
      throw new NotFoundException('There is no such group in this project.');
    const inside = (whole: Project) => (within === undefined ? whole : insideGroup(whole, within));
    const used = footageOnReel(inside(kept));
    const project = inside(await this.rows.counted(projectId, kept, (id) => used.has(id)));
    const last = reelFrames(project) - 1;
    if (frame > last) throw new NotFoundException(`The reel has frames 0 to ${last}.`);
    const files = await this.media.originals(projectId);
    return this.stills.make({ kind: 'reel', project, frame, files, ...this.motion });
  }

  private get motion() {
    return { motion: { folder: this.config.motionFolder, maxBytes: this.config.motionBytes } };
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
