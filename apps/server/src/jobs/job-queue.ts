import { Logger } from '@nestjs/common';

/** Jobs one after another, in so many lanes: more at once would only share the same cores, but one that stalls leaves the other lane free. */
export class JobQueue {
  private readonly logger = new Logger('jobs');
  private readonly waiting: (() => Promise<void>)[] = [];
  private busy = 0;

  constructor(private readonly lanes = 1) {}

  add(task: () => Promise<void>): void {
    this.waiting.push(task);
    if (this.busy < this.lanes) void this.work();
  }

  private async work(): Promise<void> {
    this.busy++;
    for (let task = this.waiting.shift(); task; task = this.waiting.shift())
      // What a task cannot write down (the disk is full) is made up for after the next start.
      await task().catch((error: Error) => this.logger.warn(error.message));
    this.busy--;
  }
}
