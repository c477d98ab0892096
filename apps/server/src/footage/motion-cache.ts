import { Injectable } from '@nestjs/common';
import type { MotionCache } from '@idle-bend/core/api';
import { FlowStore } from '@idle-bend/media';
import { Config } from '../config.js';

/** What is kept on disk of the motion between frames, of all projects. */
@Injectable()
export class MotionCacheStore {
  private readonly store: FlowStore;

  constructor(private readonly config: Config) {
    this.store = new FlowStore(config.motionFolder, config.motionBytes);
  }

  /** How much it holds, and how much it may hold. */
  async content(): Promise<MotionCache> {
    return { ...(await this.store.content()), maxBytes: this.config.motionBytes };
  }

  /** Drops it. Renders under way find again what they need. */
  async clear(): Promise<void> {
    await this.store.clear();
  }
}
