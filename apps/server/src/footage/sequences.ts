import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core/foundation';
import { parseProject } from '@idle-bend/core/model';
import { PICTURE_KINDS } from '@idle-bend/media';
import { Config } from '../config.js';
import { Events } from '../events/events.js';
import { JobQueue } from '../jobs/job-queue.js';
import { runJob } from '../jobs/job.js';
import { Projects } from '../projects/projects.js';
import { FootageLibrary } from './footage-library.js';

/** A picture of a numbered sequence, as its upload describes it. */
export interface SequencePicture {
  readonly projectId: string;
  /** The same for all pictures of a sequence; made by the sender. */
  readonly sequence: string;
  /** The sequence's name, such as "parade_[0001-0120].png". */
  readonly name: string;
  /** From 0, without a gap. */
  readonly index: number;
  readonly count: number;
}

const MAX_PICTURES = 100_000;

/** Numbered pictures that are sent one by one; the last to arrive makes a clip of them at the reel's rate. */
@Injectable()
export class Sequences implements OnApplicationBootstrap {
  private readonly queue = new JobQueue();
  private readonly arrived = new Map<string, Set<number>>();

  constructor(
    private readonly config: Config,
    private readonly events: Events,
    private readonly projects: Projects,
    private readonly footage: FootageLibrary,
  ) {}

  /** What a restart left half sent is sent again as a whole; what was half made of it, or of fields, goes. */
  async onApplicationBootstrap(): Promise<void> {
    for (const name of await readdir(this.config.uploadFolder))
      if (/^(sequence|fields)-/.test(name))
        await rm(join(this.config.uploadFolder, name), { recursive: true, force: true });
  }

  /** Takes one picture. Throws `InvalidInput` for a description that cannot be right. */
  async take({ projectId, sequence, name, index, count }: SequencePicture, file: string): Promise<void> {
    const kind = extname(name).slice(1).toLowerCase();
    if (!/^[\w-]{1,64}$/.test(sequence)) throw new InvalidInput('sequence', 'must be made of letters, digits, _ and -');
    if (!(PICTURE_KINDS as readonly string[]).includes(kind))
      throw new InvalidInput(name, `is not made of ${PICTURE_KINDS.join(', ')} pictures`);
    if (!(Number.isInteger(count) && count >= 2 && count <= MAX_PICTURES))
      throw new InvalidInput('count', `must be from 2 to ${MAX_PICTURES}`);
    if (!(Number.isInteger(index) && index >= 0 && index < count))
      throw new InvalidInput('index', `must be from 0 to ${count - 1}`);
    const { document } = await this.projects.row(projectId);
    const folder = join(this.config.uploadFolder, `sequence-${sequence}`);
    await mkdir(folder, { recursive: true });
    await rename(file, join(folder, `${String(index).padStart(6, '0')}.${kind}`));
    const here = this.arrived.get(sequence) ?? new Set();
    this.arrived.set(sequence, here.add(index));
    if (here.size < count) return;
    this.arrived.delete(sequence);
    const { rate } = parseProject(JSON.parse(document)).reel;
    this.queue.add(projectId, async () => {
      const clip = join(this.config.uploadFolder, `sequence-${randomUUID()}.mkv`);
      try {
        await runJob('sequence', { folder, pictures: kind, rate, file: clip, name }).result;
        await this.footage.take(projectId, clip, `${name.slice(0, -kind.length - 1)}.mkv`, 'move');
      } catch (error) {
        this.events.tell(projectId, { kind: 'import-failed', name, message: (error as Error).message });
      }
      await rm(clip, { force: true });
      await rm(folder, { recursive: true, force: true });
    });
  }
}
