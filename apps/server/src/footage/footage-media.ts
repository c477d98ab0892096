import { existsSync } from 'node:fs';
import { Injectable, NotFoundException } from '@nestjs/common';
import { footageOnReel } from '@idle-bend/core/group';
import type { Project } from '@idle-bend/core/model';
import type { MediaFile, MediaFiles } from '@idle-bend/media';
import { FootageRow } from '../storage/rows.js';
import { factsOf, FootagePaths, MOTION, PROXY, SOUND_FILES, STRIP } from './footage-paths.js';
import { Proxies } from './proxies.js';
import { FootageRows } from './footage-rows.js';

/** Which file holds what of a piece of footage, for those who play, draw and render it. Each throws `NotFoundException` for what is not there. */
@Injectable()
export class FootageMedia {
  constructor(
    private readonly paths: FootagePaths,
    private readonly rows: FootageRows,
    private readonly proxies: Proxies,
  ) {}

  async file(id: string, kind: 'proxy' | 'strip'): Promise<string> {
    const row = await this.rows.row(id);
    if (row.status !== 'ready') throw new NotFoundException(`"${row.name}" is not prepared yet.`);
    if (!factsOf(row).picture) throw new NotFoundException(`"${row.name}" has no picture.`);
    return this.paths.at(id, kind === 'proxy' ? PROXY : STRIP);
  }

  /** The original, for browsers that decode it themselves. Throws `MediaError` for one that lies elsewhere and is not there, or not what it was. */
  async originalFile(id: string): Promise<string> {
    const row = await this.rows.row(id);
    if (!factsOf(row).picture) throw new NotFoundException(`"${row.name}" has no picture.`);
    return this.paths.original(row);
  }

  /** The pieces of a proxy that is not whole yet. */
  async pieces(id: string): Promise<{ frames: number; made: number[] }> {
    const row = await this.rows.row(id);
    if (row.status === 'ready' || !factsOf(row).picture)
      throw new NotFoundException(`The proxy of "${row.name}" is not in pieces.`);
    return this.proxies.pieces(row);
  }

  async pieceFile(id: string, piece: number): Promise<string> {
    const row = await this.rows.row(id);
    const file = this.proxies.pieceFile(row, piece);
    if (!existsSync(file)) throw new NotFoundException(`There is no piece ${piece} of the proxy of "${row.name}".`);
    return file;
  }

  /** What looking at its motion found (see `MotionFile`). */
  async motionFile(id: string): Promise<string> {
    const row = await this.rows.row(id);
    if (row.motion !== 'ready') throw new NotFoundException(`The motion of "${row.name}" has not been looked at yet.`);
    return this.paths.at(id, MOTION);
  }

  /** A file made of its sound: the sound itself (FLAC), its peaks (see `peaksOf`), or what was heard (`HeardSound`). */
  async soundFile(id: string, kind: keyof typeof SOUND_FILES): Promise<string> {
    const row = await this.rows.row(id);
    if (row.sound === 'none') throw new NotFoundException(`"${row.name}" has no sound.`);
    if (row.sound !== 'ready') throw new NotFoundException(`"${row.name}" has not been listened to yet.`);
    return this.paths.at(id, SOUND_FILES[kind]);
  }

  /** A file a worker may have: the original of a piece of footage, or its proxy. */
  async mediaFile(id: string, name: string): Promise<string> {
    const row = await this.rows.row(id);
    if (name !== row.fileName && name !== PROXY) throw new NotFoundException(`"${row.name}" has no such file.`);
    return name === PROXY ? this.paths.at(row.id, PROXY) : this.paths.original(row);
  }

  async originals(projectId: string): Promise<MediaFiles> {
    const rows = await this.rows.of(projectId);
    return Object.fromEntries(rows.map((row) => [row.id, this.paths.mediaIfThere(row)]));
  }

  /** The media a project's frames are rendered from: originals or, for a draft, proxies; how deep they are, and whether any has transparency. */
  async renderMedia(projectId: string, project: Project, draft: boolean): Promise<RenderMedia> {
    const used = footageOnReel(project);
    const rows = (await this.rows.of(projectId)).filter(({ id }) => used.has(id));
    const pictures = rows.flatMap((row) => factsOf(row).picture ?? []);
    const media = (row: FootageRow): MediaFile => {
      if (draft && row.status === 'ready') return { file: this.paths.at(row.id, PROXY), name: row.name };
      return this.paths.media(row);
    };
    return {
      files: Object.fromEntries(rows.map((row) => [row.id, media(row)])),
      depths: pictures.map(({ bitDepth }) => bitDepth),
      alpha: pictures.some(({ alpha }) => alpha),
    };
  }

  /** The start timecodes a project's files have. */
  async startTimecodes(projectId: string): Promise<Map<string, string>> {
    const all = (await this.rows.of(projectId)).map((row) => ({ id: row.id, facts: factsOf(row) }));
    return new Map(
      all.flatMap(({ id, facts }) => (facts.startTimecode === null ? [] : [[id, facts.startTimecode] as const])),
    );
  }
}

export interface RenderMedia {
  readonly files: MediaFiles;
  /** Bits a sample. */
  readonly depths: readonly number[];
  readonly alpha: boolean;
}
