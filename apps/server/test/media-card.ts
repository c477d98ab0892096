import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Footage, MediaRoot } from '@idle-bend/core/api';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import type { RunningServer } from './running-server.js';

/** Frames of most films there. */
export const FRAMES = 72;

/** A folder as it comes from a camera, and what does not belong there: hidden, linked, and no footage. */
export interface MediaCard {
  /** What the card lies in. */
  readonly folder: string;
  readonly card: string;
  /** A numbered film of 60 fps on it. */
  film(name: string, frames?: number): Promise<string>;
}

export async function makeMediaCard(): Promise<MediaCard> {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-card-'));
  const card = join(folder, 'card');
  const film = (name: string, frames = FRAMES) =>
    makeNumberedClip({ file: join(card, name), frames, rate: '60', options: [...H264, '-g', '24', '-bf', '2'] });
  mkdirSync(join(card, 'day two'), { recursive: true });
  mkdirSync(join(card, '.hidden'));
  await film('run.mp4');
  await film('bell.mp4', 48);
  copyFileSync(join(card, 'bell.mp4'), join(card, '.hidden', 'secret.mp4'));
  copyFileSync(join(card, 'bell.mp4'), join(card, '.dot.mp4'));
  const copied = ['-i', join(card, 'run.mp4'), '-c', 'copy', join(card, 'day two', 'run 2.mkv')];
  execFileSync('ffmpeg', ['-v', 'error', ...copied]);
  writeFileSync(join(card, 'notes.txt'), 'no footage');
  copyFileSync(join(card, 'bell.mp4'), join(folder, 'outside.mp4'));
  symlinkSync(join(folder, 'outside.mp4'), join(card, 'link.mp4'));
  symlinkSync(folder, join(card, 'up'));
  return { folder, card, film };
}

/** The only media root of a server. */
export const onlyRoot = async (server: RunningServer): Promise<MediaRoot> =>
  (await server.get<MediaRoot[]>('/api/media')).body[0]!;

export interface Taken {
  readonly taken: Footage[];
  readonly problems: string[];
}

/** Makes footage of files of a media root, where they lie. */
export const refer = (server: RunningServer, id: string, root: string, ...paths: string[]) =>
  server.send<Taken>('POST', `/api/projects/${id}/references`, { root, paths });
