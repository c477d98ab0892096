import { access, constants, statfs } from 'node:fs/promises';
import { Controller, Get } from '@nestjs/common';
import type { ServerState } from '@idle-bend/core/api';
import { programVersion } from '@idle-bend/media';
import { Config } from '../config.js';

/** Below this the data folder's disk is said to be nearly full. */
const LITTLE_BYTES = 2e9;
/** What this code was written for. */
const OLDEST_FFMPEG = 4.4;

/** What is not as it should be with the machine, in sentences that say what to do. */
@Controller('api/state')
export class StateController {
  constructor(private readonly config: Config) {}

  /** What was found stays so; what is missing is looked for again. */
  private readonly versions = new Map<string, number | undefined>();

  private async versionOf(program: 'ffmpeg' | 'ffprobe'): Promise<number | undefined> {
    if (!this.versions.has(program)) this.versions.set(program, await programVersion(program));
    return this.versions.get(program);
  }

  @Get()
  async state(): Promise<ServerState> {
    const problems: string[] = [];
    for (const program of ['ffmpeg', 'ffprobe'] as const) {
      try {
        const version = await this.versionOf(program);
        if (version !== undefined && version < OLDEST_FFMPEG)
          problems.push(
            `${program} ${version} is older than ${OLDEST_FFMPEG}, so some files and formats will fail; install a newer one.`,
          );
      } catch (error) {
        problems.push((error as Error).message);
      }
    }
    const { bavail, bsize } = await statfs(this.config.data);
    const freeBytes = bavail * bsize;
    if (freeBytes < LITTLE_BYTES)
      problems.push(
        `The disk of the data folder has ${(freeBytes / 1e6).toFixed(0)} MB left; free some before importing or rendering.`,
      );
    if (
      !(await access(this.config.data, constants.W_OK).then(
        () => true,
        () => false,
      ))
    )
      problems.push('The data folder cannot be written, so nothing is kept; make it writable.');
    return { problems, freeBytes };
  }
}
