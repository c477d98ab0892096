import type { MediaFileFacts } from '@idle-bend/core/api';
import { Body, Controller, Get, HttpCode, Post, Query, Res } from '@nestjs/common';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsOptional, IsString, Matches, MaxLength } from 'class-validator';
import type { Response } from 'express';
import { readyForWork } from '../jobs/job.js';
import { Id } from '../trust/id.js';
import { MediaLook } from './media-look.js';
import { MediaRoots } from './media-roots.js';

/** A folder or a file inside a media root; the root itself where it is empty. */
class PathInRoot {
  @IsString() @MaxLength(2000) path!: string;
}

/** A picture has an address of its own for every change of the file. */
class PictureInRoot extends PathInRoot {
  @IsOptional() @Matches(/^\d{1,20}$/) at?: string;
}

class PathsInRoot {
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(500)
  @IsString({ each: true })
  @MaxLength(2000, { each: true })
  paths!: string[];
}

/** The folders of this machine that footage may be taken from: what is in them, before any of it is taken. */
@Controller('api/media')
export class MediaRootsController {
  constructor(
    private readonly roots: MediaRoots,
    private readonly look: MediaLook,
  ) {}

  @Get()
  list() {
    return this.roots.list();
  }

  @Get(':id/folder')
  folder(@Id() id: string, @Query() { path }: PathInRoot) {
    this.roots.checkShown();
    // Some of it may be taken next.
    readyForWork();
    return this.roots.folder(id, path);
  }

  @Post(':id/facts')
  @HttpCode(200)
  async facts(@Id() id: string, @Body() { paths }: PathsInRoot): Promise<Record<string, MediaFileFacts>> {
    this.roots.checkShown();
    return this.look.facts(id, paths);
  }

  @Get(':id/picture')
  async picture(@Id() id: string, @Query() { path }: PictureInRoot, @Res() response: Response) {
    this.roots.checkShown();
    const jpeg = await this.look.picture(id, path);
    response.setHeader('Cache-Control', 'max-age=600');
    response.type('image/jpeg').send(jpeg);
  }
}
