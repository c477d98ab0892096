import { pipeline } from 'node:stream/promises';
import { Controller, Get, Logger, Query, Res } from '@nestjs/common';
import { IsIn, IsOptional } from 'class-validator';
import type { Response } from 'express';
import { BUNDLED_MEDIA, type BundledMedia } from '@idle-bend/core/exchange';
import { Bundles } from './bundles.js';
import { Id } from '../trust/id.js';

class BundleChoice {
  /** Whether the media themselves go in, proxies of them, or only what they are known again by. */
  @IsOptional() @IsIn(BUNDLED_MEDIA) media?: BundledMedia;
}

@Controller('api/projects')
export class BundlesController {
  private readonly logger = new Logger('bundles');

  constructor(private readonly bundles: Bundles) {}

  @Get(':id/bundle')
  async bundle(@Id() id: string, @Query() { media }: BundleChoice, @Res() response: Response) {
    const { name, stream } = await this.bundles.write(id, media ?? 'no');
    const plain = name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'project';
    response
      .type('application/zip')
      .setHeader('Content-Disposition', `attachment; filename*=UTF-8''${encodeURIComponent(plain)}.zip`);
    // A file that went away meanwhile breaks the answer off, so that nobody takes half a bundle for a whole one; so does whoever asked.
    await pipeline(stream, response).catch((error: Error) =>
      this.logger.warn(`The bundle of ${name} was broken off: ${error.message}`),
    );
  }
}
