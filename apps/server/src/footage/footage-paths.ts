import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ConflictException, Injectable } from '@nestjs/common';
import {
  readFacts,
  readFileReference,
  readHealth,
  type FileReference,
  type Footage,
  type FootageFacts,
} from '@idle-bend/core/api';
import type { Health } from '@idle-bend/core/health';
import type { MediaFile } from '@idle-bend/media';
import { Config } from '../config.js';
import { MediaRoots, type FileState } from '../media-roots/media-roots.js';
import type { FootageRow } from '../storage/rows.js';

/** What stands in a piece of footage's own folder beside its original. */
export const PROXY = 'proxy.mp4';
export const STRIP = 'strip.jpg';
/** A folder of the proxy's pieces, while it is being made. */
export const PIECES = 'pieces';
export const MOTION = 'motion.json';
/** The sound as browsers play it, its peaks, and what was heard in it. */
export const SOUND_FILES = { sound: 'sound.flac', peaks: 'peaks.bin', heard: 'heard.json' } as const;
/** What the footage is, should the database be lost. */
export const ABOUT = 'about.json';

/** Where the files of footage are. */
@Injectable()
export class FootagePaths {
  /** What was said last of files that lie elsewhere, by footage. */
  readonly told = new Map<string, FileState>();

  constructor(
    private readonly config: Config,
    private readonly roots: MediaRoots,
  ) {}

  folder(id: string): string {
    return join(this.config.mediaFolder, id);
  }

  at(id: string, name: string): string {
    return join(this.config.mediaFolder, id, name);
  }

  /** A path to its original. Throws `MediaError` for one that lies elsewhere and is not there, or not what it was. */
  original(row: FootageRow): string {
    const reference = referenceOf(row);
    if (!reference) return this.own(row);
    const state = this.roots.stateOf(reference);
    if (state !== 'here') throw this.roots.refusalOf(row.name, state);
    return this.roots.open(reference.root, reference.path).file;
  }

  /** Where its original is, or would be, in its own folder. */
  own({ id, fileName }: FootageRow): string {
    return this.at(id, fileName);
  }

  /** The original for those who make something of it. Throws as `original` does. */
  media(row: FootageRow): MediaFile {
    return { file: this.original(row), name: row.name, own: this.own(row) };
  }

  /** The same, but one that cannot be used now is told only when it is opened: not all that is listed is used. */
  mediaIfThere(row: FootageRow): MediaFile {
    return this.stateOf(row) === 'here' ? this.media(row) : { file: this.at(row.id, NOWHERE), name: row.name };
  }

  stateOf(row: FootageRow): FileState {
    const reference = referenceOf(row);
    if (reference) return this.roots.stateOf(reference);
    return existsSync(this.own(row)) ? 'here' : 'missing';
  }

  /** A row as it is told to the interface. */
  shown(row: FootageRow): Footage {
    const state = this.stateOf(row);
    const reference = referenceOf(row);
    if (reference) this.told.set(row.id, state);
    const facts = factsOf(row);
    return {
      id: row.id,
      name: row.name,
      status: row.status,
      problem: row.problem,
      revision: row.fileName.replace(/\W/g, '') + (hasEstimate(facts) ? 'estimated' : ''),
      missing: state === 'missing',
      lies: reference && { root: this.roots.nameOf(reference.root) ?? '', path: reference.path },
      changed: state === 'changed',
      fingerprint: row.fingerprint,
      facts,
      health: healthOf(row),
      motion: row.motion,
      sound: row.sound,
    };
  }
}

/** Where a file is looked for that is not there. */
const NOWHERE = 'gone';

export const referenceOf = (row: FootageRow): FileReference | null =>
  row.reference ? readFileReference(JSON.parse(row.reference), 'reference') : null;
export const factsOf = (row: FootageRow): FootageFacts => readFacts(JSON.parse(row.facts), 'facts');
/** Whether its frames are not counted yet: how many it has, and when they are shown, is an estimate. */
export const isEstimated = (row: FootageRow): boolean => hasEstimate(factsOf(row));
const hasEstimate = ({ picture }: FootageFacts): boolean => picture?.estimate?.isCounted === false;
/** Throws `ConflictException` where frames are wanted of which it is not known yet which ones they are. */
export function refuseEstimated(rows: readonly FootageRow[]): void {
  const row = rows.find(isEstimated);
  if (row)
    throw new ConflictException(
      `The frames of "${row.name}" are still being counted: its container has no list of them. It can be bent meanwhile; try again when they are counted.`,
    );
}
export const healthOf = (row: FootageRow): Health | null =>
  row.health ? readHealth(JSON.parse(row.health), 'health') : null;
