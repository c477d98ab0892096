import { fork, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import { NotFoundException } from '@nestjs/common';
import type { FrameTimes } from '@idle-bend/core/api';
import type { Frame } from '@idle-bend/core/frame';
import type { Project } from '@idle-bend/core/model';
import type { Sample } from '@idle-bend/core/sampling';
import { MediaError, type MediaFile, type MediaFiles, type ProxySize } from '@idle-bend/media';
import type { MotionPlace } from './chunk.js';

/** A frame of one original, or one of a reel as its render has it; or one of an original as its proxy has it; or when all of its frames are. */
type Wanted =
  | ({ readonly kind: 'times' } & MediaFile)
  | ({
      readonly kind: 'picture';
      readonly frame: number;
      readonly size: ProxySize;
      /** Whether its frames are not counted yet: a frame is the one nearest to its estimated time. */
      readonly isEstimated: boolean;
    } & MediaFile)
  | ({ readonly kind: 'sample'; readonly sample: Sample } & MediaFile)
  | { readonly kind: 'reel'; readonly project: Project; readonly frame: number; readonly files: MediaFiles };

export type StillQuestion = Wanted & { readonly id: string; readonly motion: MotionPlace };

export type StillAnswer = { readonly id: string } & (
  | { readonly png: Uint8Array }
  | { readonly picture: Frame }
  | { readonly times: FrameTimes }
  | { readonly notThere: string }
  | { readonly failed: string; readonly refused: boolean }
);

type Made = Exclude<StillAnswer, { notThere: string } | { failed: string }>;

interface Waiting {
  resolve(made: Made): void;
  reject(error: Error): void;
}

const PROGRAM = fileURLToPath(new URL('./still-worker.js', import.meta.url));

/** Single frames of originals, made in a process of their own that is started with the first and stays. */
export class Stills {
  private child: ChildProcess | undefined;
  private readonly waiting = new Map<string, Waiting>();

  /** One frame at full size, as PNG. Throws `MediaError` naming the file, or 404 naming the frame that is not there. */
  async make(wanted: Exclude<Wanted, { kind: 'picture' | 'times' }> & Pick<StillQuestion, 'motion'>): Promise<Buffer> {
    const made = await this.ask(wanted);
    return Buffer.from('png' in made ? made.png : []);
  }

  /** One frame of an original as its proxy has it, but for the coding. Throws as `make` does. */
  async picture(wanted: Extract<Wanted, { kind: 'picture' }> & Pick<StillQuestion, 'motion'>): Promise<Frame> {
    const made = await this.ask(wanted);
    if (!('picture' in made)) throw new Error('a picture was asked for and none came');
    return made.picture;
  }

  /** When the frames of an original are shown. Throws `MediaError`, or 404 where its pictures are not shown as they are. */
  async times(wanted: MediaFile & Pick<StillQuestion, 'motion'>): Promise<FrameTimes> {
    const made = await this.ask({ kind: 'times', ...wanted });
    if (!('times' in made)) throw new Error('times were asked for and none came');
    return made.times;
  }

  private ask(wanted: Wanted & Pick<StillQuestion, 'motion'>): Promise<Made> {
    const id = randomUUID();
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      this.started().send({ ...wanted, id });
    });
  }

  /** Starts its process, so that the first picture need not wait for that. */
  warmUp(): void {
    this.started();
  }

  close(): void {
    if (this.child?.connected) this.child.disconnect();
  }

  private started(): ChildProcess {
    if (this.child) return this.child;
    const child = fork(PROGRAM, { serialization: 'advanced', execArgv: [] });
    this.child = child;
    child.on('message', (answer: StillAnswer) => this.take(answer));
    child.once('exit', () => {
      if (this.child === child) this.child = undefined;
      // The next question starts another.
      for (const { reject } of this.waiting.values()) reject(new Error('the process that makes frames ended'));
      this.waiting.clear();
    });
    return child;
  }

  private take(answer: StillAnswer): void {
    const waiting = this.waiting.get(answer.id);
    this.waiting.delete(answer.id);
    if ('notThere' in answer) waiting?.reject(new NotFoundException(answer.notThere));
    else if ('failed' in answer)
      waiting?.reject(answer.refused ? new MediaError(answer.failed) : new Error(answer.failed));
    else waiting?.resolve(answer);
  }
}
