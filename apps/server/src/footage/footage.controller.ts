import { Body, Controller, Delete, Get, Header, HttpCode, Param, Patch, Post, Query, Res, StreamableFile } from '@nestjs/common';
import type { Sample } from '@idle-bend/core';
import { Type } from 'class-transformer';
import { IsIn, IsInt, IsNotEmpty, IsOptional, IsString, Max, MaxLength, Min } from 'class-validator';
import type { Response } from 'express';
import { Projects } from '../projects/projects.js';
import { FootageStore } from './footage.js';

/** A source frame, or `fraction` of the way from it to `next`: blended, or by motion, which looks at the frames around both too. */
class WantedFrame {
  @Type(() => Number) @IsInt() @Min(0) frame!: number;
  @Type(() => Number) @IsOptional() @IsInt() @Min(0) next?: number;
  @Type(() => Number) @IsOptional() @Min(0) @Max(1) fraction?: number;
  @IsOptional() @IsIn(['mix', 'flow']) method?: 'mix' | 'flow';
  @Type(() => Number) @IsOptional() @IsInt() @Min(0) before?: number;
  @Type(() => Number) @IsOptional() @IsInt() @Min(0) after?: number;
}

function sampleOf({ frame, next, fraction = 0.5, method = 'mix', before, after }: WantedFrame): Exclude<Sample, { kind: 'black' }> {
  if (next === undefined) return { kind: 'source', frame };
  const between = { a: frame, b: next, fraction };
  return method === 'mix' ? { kind: 'mix', ...between } : { kind: 'flow', ...between, before, after };
}

class NewName {
  @IsString() @IsNotEmpty() @MaxLength(200) name!: string;
}

@Controller('api')
export class FootageController {
  constructor(
    private readonly footage: FootageStore,
    private readonly projects: Projects,
  ) {}

  @Get('projects/:id/footage')
  async list(@Param('id') id: string) {
    await this.projects.row(id);
    return this.footage.list(id);
  }

  @Patch('footage/:id')
  rename(@Param('id') id: string, @Body() { name }: NewName) {
    return this.footage.rename(id, name.trim());
  }

  @Post('footage/:id/fields')
  @HttpCode(202)
  async fields(@Param('id') id: string) {
    await this.footage.takeFields(id);
    return {};
  }

  @Delete('footage/:id')
  async remove(@Param('id') id: string) {
    await this.footage.remove(id);
    return {};
  }

  @Get('footage/:id/proxy')
  async proxy(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.file(id, 'proxy'), { headers: { 'Content-Type': 'video/mp4' }, maxAge: '1h', dotfiles: 'allow' });
  }

  @Get('footage/:id/strip')
  async strip(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.file(id, 'strip'), { maxAge: '1h', dotfiles: 'allow' });
  }

  @Get('footage/:id/frame')
  @Header('Cache-Control', 'no-store')
  async frame(@Param('id') id: string, @Query() wanted: WantedFrame) {
    return new StreamableFile(await this.footage.still(id, sampleOf(wanted)), { type: 'image/png' });
  }
}
