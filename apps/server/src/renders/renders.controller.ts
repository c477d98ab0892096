import { Body, Controller, Delete, Get, HttpCode, Param, Post, Res } from '@nestjs/common';
import {
  FLOW_LEVELS,
  RENDER_CONTAINERS,
  RENDER_PARTS,
  RENDER_RANGES,
  type FlowLevel,
  type RenderContainer,
  type RenderPart,
  type RenderRange,
} from '@idle-bend/core';
import { IsIn, IsOptional } from 'class-validator';
import type { Response } from 'express';
import { Renders } from './renders.js';

class NewRender {
  @IsIn(RENDER_CONTAINERS) container!: RenderContainer;
  @IsOptional() @IsIn(RENDER_RANGES) range?: RenderRange;
  @IsOptional() @IsIn(FLOW_LEVELS) level?: FlowLevel;
  @IsOptional() @IsIn(RENDER_PARTS) part?: RenderPart;
}

@Controller('api')
export class RendersController {
  constructor(private readonly renders: Renders) {}

  @Get('projects/:id/renders')
  list(@Param('id') id: string) {
    return this.renders.list(id);
  }

  @Post('projects/:id/renders')
  ask(@Param('id') id: string, @Body() wish: NewRender) {
    return this.renders.ask(id, wish);
  }

  @Post('renders/:id/cancel')
  @HttpCode(200)
  async cancel(@Param('id') id: string) {
    await this.renders.cancel(id);
    return {};
  }

  @Delete('renders/:id')
  async remove(@Param('id') id: string) {
    await this.renders.remove(id);
    return {};
  }

  @Get('renders/:id/file')
  async file(@Param('id') id: string, @Res() response: Response) {
    const { path, fileName } = await this.renders.file(id);
    response.download(path, fileName, { dotfiles: 'allow' });
  }
}
