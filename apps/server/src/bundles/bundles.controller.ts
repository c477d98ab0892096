import { Controller, Get, Param, Query, StreamableFile } from '@nestjs/common';
import { IsIn, IsOptional } from 'class-validator';
import { Bundles } from './bundles.js';

class BundleChoice {
  /** Whether the media themselves go in, or what they are known again by. */
  @IsOptional() @IsIn(['yes', 'no']) media?: 'yes' | 'no';
}

@Controller('api/projects')
export class BundlesController {
  constructor(private readonly bundles: Bundles) {}

  @Get(':id/bundle')
  async bundle(@Param('id') id: string, @Query() { media }: BundleChoice) {
    const { name, stream } = await this.bundles.write(id, media === 'yes');
    const plain = name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'project';
    return new StreamableFile(stream, { type: 'application/zip', disposition: `attachment; filename*=UTF-8''${encodeURIComponent(plain)}.zip` });
  }
}
