import { Controller, Delete, Get, Header, Param, Query, Res, StreamableFile } from '@nestjs/common';
import { END_CHOICES, METHODS, sampleAt, type EndChoice, type Method } from '@idle-bend/core';
import { IsIn, IsNumberString } from 'class-validator';
import type { Response } from 'express';
import { Projects } from '../projects/projects.js';
import { FootageStore } from './footage.js';

class WantedFrame {
  /** Source position in frames, such as 143.4. */
  @IsNumberString() position!: string;
  @IsIn(METHODS) method!: Method;
  @IsIn(END_CHOICES) end!: EndChoice;
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
  async frame(@Param('id') id: string, @Query() { position, method, end }: WantedFrame) {
    return new StreamableFile(await this.footage.still(id, (frames) => sampleAt(Number(position), frames, method, end)), { type: 'image/png' });
  }
}
