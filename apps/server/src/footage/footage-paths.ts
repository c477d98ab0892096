import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { readFacts, readHealth, type Footage, type FootageFacts } from '@idle-bend/core/api';
import type { Health } from '@idle-bend/core/health';
import { Config } from '../config.js';
import type { FootageRow } from '../storage/rows.js';

/** What stands in a piece of footage's own folder beside its original. */
export const PROXY = 'proxy.mp4';
export const STRIP = 'strip.jpg';
export const MOTION = 'motion.json';
/** The sound as browsers play it, its peaks, and what was heard in it. */
export const SOUND_FILES = { sound: 'sound.flac', peaks: 'peaks.bin', heard: 'heard.json' } as const;
/** What the footage is, should the database be lost. */
export const ABOUT = 'about.json';

/** Where the files of footage are. */
@Injectable()
export class FootagePaths {
  constructor(private readonly config: Config) {}

  folder(id: string): string {
    return join(this.config.mediaFolder, id);
  }

  at(id: string, name: string): string {
    return join(this.config.mediaFolder, id, name);
  }

  original({ id, fileName }: FootageRow): string {
    return this.at(id, fileName);
  }

  /** A row as it is told to the interface. */
  shown(row: FootageRow): Footage {
    return {
      id: row.id,
      name: row.name,
      status: row.status,
      problem: row.problem,
      revision: row.fileName.replace(/\W/g, ''),
      missing: !existsSync(this.original(row)),
      facts: factsOf(row),
      health: healthOf(row),
      motion: row.motion,
      sound: row.sound,
    };
  }
}

export const factsOf = (row: FootageRow): FootageFacts => readFacts(JSON.parse(row.facts), 'facts');
export const healthOf = (row: FootageRow): Health | null =>
  row.health ? readHealth(JSON.parse(row.health), 'health') : null;
