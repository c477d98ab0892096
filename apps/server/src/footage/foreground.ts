import { Injectable } from '@nestjs/common';
import { Events } from '../events/events.js';

/** A window that plays says so again within this time; one that is gone says nothing more, milliseconds. */
const PLAYING_MS = 10_000;

/** What somebody waits for and needs the processor for: reels that play, renders, files that are taken in. What is made ahead stands still meanwhile. */
@Injectable()
export class Foreground {
  private readonly windows = new Map<string, NodeJS.Timeout>();
  private readonly listeners: (() => void)[] = [];
  private renders = false;
  private taking = 0;

  constructor(private readonly events: Events) {}

  get isPlaying(): boolean {
    return this.windows.size > 0;
  }

  get isBusy(): boolean {
    return this.isPlaying || this.isWorking;
  }

  /** Whether more has to wait than where a reel only plays. */
  get isWorking(): boolean {
    return this.renders || this.taking > 0;
  }

  /** Calls back whenever it may have become busy, or free. */
  onChange(listener: () => void): void {
    this.listeners.push(listener);
  }

  /** A window plays, now and for a while. */
  playing(window: string): void {
    clearTimeout(this.windows.get(window));
    this.windows.set(window, setTimeout(() => this.stopped(window), PLAYING_MS).unref());
    this.tell();
  }

  /** It plays no more. */
  stopped(window: string): void {
    clearTimeout(this.windows.get(window));
    if (this.windows.delete(window)) this.tell();
  }

  /** Whether this machine renders. */
  rendering(renders: boolean): void {
    if (this.renders === renders) return;
    this.renders = renders;
    this.tell();
  }

  /** Takes many files in. */
  async taken<T>(take: () => Promise<T>): Promise<T> {
    this.taking++;
    this.tell();
    try {
      return await take();
    } finally {
      this.taking--;
      this.tell();
    }
  }

  private tell(): void {
    this.events.tellForeground(this.isBusy);
    for (const listener of this.listeners) listener();
  }
}
