import { Injectable, Logger } from '@nestjs/common';
import type { FootageFacts } from '@idle-bend/core/api';
import { Events } from '../events/events.js';
import { JobQueue } from '../jobs/job-queue.js';
import { runJob, type RunningJob } from '../jobs/job.js';
import { FootageRow } from '../storage/rows.js';
import { factsOf, FootagePaths } from './footage-paths.js';

/** Counts the frames of footage that was taken in with an estimate, before anything is made of it. */
@Injectable()
export class FrameCounts {
  private readonly logger = new Logger('footage');
  private readonly queue = new JobQueue(2, 1);
  /** What waits to be counted, or is being counted. */
  private readonly counting = new Map<string, RunningJob<FootageFacts> | undefined>();
  private readonly stopping = new Set<string>();
  private isHeld = false;

  constructor(
    private readonly events: Events,
    private readonly paths: FootagePaths,
  ) {}

  /** Begins once; `goOn` is given the footage with its frames counted. A file that turns out to be none that can be used is told as such. */
  count(row: FootageRow, goOn: (counted: FootageRow) => void): void {
    const { id, projectId } = row;
    if (this.counting.has(id)) return;
    this.counting.set(id, undefined);
    const task = async () => {
      const counted = await this.countNow(row).finally(() => this.counting.delete(id));
      if (counted) goOn(counted);
    };
    this.queue.add(projectId, task, id);
  }

  /** Stands still while something else cannot wait: counting may take as long as decoding. */
  hold(isHeld: boolean): void {
    this.isHeld = isHeld;
    this.queue.pause(isHeld);
    for (const job of this.counting.values()) job?.hold(isHeld);
  }

  /** Of a project, what clips use is counted first. */
  prefer(projectId: string, used: ReadonlySet<string>): void {
    this.queue.prefer(projectId, used);
  }

  /** Somebody waits for it. */
  hurry(id: string): void {
    this.queue.hurry(id);
  }

  /** Resolves once what is under way has ended. */
  async stop(id: string): Promise<void> {
    this.stopping.add(id);
    const ended = this.queue.drop(id);
    this.counting.get(id)?.cancel();
    await ended;
    this.counting.delete(id);
    this.stopping.delete(id);
  }

  private async countNow(row: FootageRow): Promise<FootageRow | undefined> {
    // A file that was replaced meanwhile is no longer spoken for.
    const where = { id: row.id, fileName: row.fileName };
    try {
      const { frames } = factsOf(row).picture!;
      const tell = (done: number, total: number) =>
        this.events.tell(row.projectId, { kind: 'footage-progress', footageId: row.id, done, total });
      const input = { file: this.paths.original(row), name: row.name, beside: this.paths.own(row), frames };
      const job = runJob('count', input, tell);
      this.counting.set(row.id, job);
      job.hold(this.isHeld);
      const counted = await job.result;
      if (this.stopping.has(row.id)) return undefined;
      const { picture } = factsOf((await FootageRow.findOne({ where })) ?? row);
      if (!picture?.estimate || !counted.picture) return undefined;
      const { proxy } = picture;
      const facts = {
        ...counted,
        picture: { ...counted.picture, proxy, estimate: { ...picture.estimate, isCounted: true } },
      };
      await FootageRow.update({ facts: JSON.stringify(facts) }, { where });
      // Its proxy is next, and has not begun.
      tell(0, counted.picture.frames);
      this.events.tell(row.projectId, { kind: 'footage' });
      return (await FootageRow.findOne({ where })) ?? undefined;
    } catch (error) {
      if (this.stopping.has(row.id)) return undefined;
      this.logger.warn(`${row.name}: ${(error as Error).message}`);
      await FootageRow.update({ status: 'failed', problem: (error as Error).message }, { where });
      this.events.tell(row.projectId, { kind: 'footage' });
      return undefined;
    }
  }
}
