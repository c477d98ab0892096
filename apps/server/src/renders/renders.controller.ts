import { Body, Controller, Delete, Get, HttpCode, Patch, Post, Res } from '@nestjs/common';
import { FLOW_LEVELS, type FlowLevel } from '@idle-bend/core/model';
import {
  RENDER_DEPTHS,
  RENDER_FORMAT_NAMES,
  RENDER_PARTS,
  RENDER_QUALITIES,
  RENDER_RANGES,
  RENDER_TIMECODES,
  type RenderDepth,
  type RenderFormatName,
  type RenderPart,
  type RenderQuality,
  type RenderRange,
  type RenderTimecode,
} from '@idle-bend/core/render';
import { IsBoolean, IsIn, IsOptional, IsString, MaxLength, ValidateIf } from 'class-validator';
import type { Response } from 'express';
import { Renders } from './renders.js';
import { Id } from '../trust/id.js';

class NewRender {
  @IsIn(RENDER_FORMAT_NAMES) format!: RenderFormatName;
  @IsOptional() @IsIn(RENDER_QUALITIES) quality?: RenderQuality;
  @IsOptional() @IsIn(RENDER_DEPTHS) depth?: RenderDepth;
  @IsOptional() @IsIn(RENDER_RANGES) range?: RenderRange;
  @IsOptional() @IsIn(FLOW_LEVELS) level?: FlowLevel;
  @IsOptional() @IsIn(RENDER_TIMECODES) timecode?: RenderTimecode;
  @IsOptional() @IsBoolean() chapters?: boolean;
  @IsOptional() @IsIn(RENDER_PARTS) part?: RenderPart;
  @IsOptional() @IsString() @MaxLength(200) clipId?: string;
}

class NewPlace {
  /** The render it is to come before; null: it goes last. */
  @ValidateIf((_, value) => value !== null) @IsString() @MaxLength(64) before!: string | null;
}

@Controller('api')
export class RendersController {
  constructor(private readonly renders: Renders) {}

  @Get('projects/:id/renders')
  list(@Id() id: string) {
    return this.renders.list(id);
  }

  @Post('projects/:id/renders')
  ask(@Id() id: string, @Body() request: NewRender) {
    return this.renders.ask(id, request);
  }

  @Post('projects/:id/renders/estimate')
  @HttpCode(200)
  estimate(@Id() id: string, @Body() request: NewRender) {
    return this.renders.estimate(id, request);
  }

  @Post('renders/:id/cancel')
  @HttpCode(200)
  async cancel(@Id() id: string) {
    await this.renders.cancel(id);
    return {};
  }

  @Post('renders/:id/pause')
  @HttpCode(200)
  async pause(@Id() id: string) {
    await this.renders.pause(id);
    return {};
  }

  @Post('renders/:id/resume')
  @HttpCode(200)
  async resume(@Id() id: string) {
    await this.renders.resume(id);
    return {};
  }

  @Patch('renders/:id')
  async move(@Id() id: string, @Body() { before }: NewPlace) {
    await this.renders.move(id, before);
    return {};
  }

  @Delete('renders/:id')
  async remove(@Id() id: string) {
    await this.renders.remove(id);
    return {};
  }

  @Get('renders/:id/file')
  async file(@Id() id: string, @Res() response: Response) {
    const { path, fileName } = await this.renders.file(id);
    response.download(path, fileName, { dotfiles: 'allow' });
  }
}
