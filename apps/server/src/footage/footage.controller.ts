import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  Param,
  Patch,
  Post,
  Query,
  Res,
  StreamableFile,
} from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core/foundation';
import { parseSample, type Sample } from '@idle-bend/core/sampling';
import { IsInt, IsNumber, IsString, Max, MaxLength, Min } from 'class-validator';
import type { Response } from 'express';
import { IsName } from '../trust/words.js';
import { Projects } from '../projects/projects.js';
import { FootageStore } from './footage.js';

/** A sample (docs/api.md) as JSON text. */
class WantedFrame {
  @IsString() @MaxLength(14_000) sample!: string;
}

function readSample(text: string): Sample {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new InvalidInput('sample', 'is not JSON');
  }
  const sample = parseSample(value);
  if (sample.kind === 'black') throw new InvalidInput('sample', 'black has no frame of the source');
  return sample;
}

/** A patch of the picture in frame `from`, followed to frame `to`: its middle and side in widths from the picture's middle. */
class WantedPatch {
  @IsInt() @Min(0) from!: number;
  @IsInt() @Min(0) to!: number;
  @IsNumber() @Min(-0.5) @Max(0.5) x!: number;
  @IsNumber() @Min(-2) @Max(2) y!: number;
  @IsNumber() @Min(0.02) @Max(0.5) size!: number;
}

class NewName {
  @IsName(200) name!: string;
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
    return this.footage.rename(id, name);
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
    response.sendFile(await this.footage.file(id, 'proxy'), {
      headers: { 'Content-Type': 'video/mp4' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/strip')
  async strip(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.file(id, 'strip'), { maxAge: '1h', dotfiles: 'allow' });
  }

  @Get('motion-cache')
  motionCache() {
    return this.footage.motionCache();
  }

  @Delete('motion-cache')
  async dropMotionCache() {
    await this.footage.dropMotionCache();
    return {};
  }

  @Get('footage/:id/motion')
  async motion(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.motionFile(id), {
      headers: { 'Content-Type': 'application/json' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Post('footage/:id/places')
  @HttpCode(200)
  async places(@Param('id') id: string, @Body() { from, to, x, y, size }: WantedPatch) {
    return { places: await this.footage.followPatch(id, from, to, { x, y, size }) };
  }

  @Get('footage/:id/sound')
  async sound(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.soundFile(id, 'sound'), {
      headers: { 'Content-Type': 'audio/flac' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/peaks')
  async peaks(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.soundFile(id, 'peaks'), {
      headers: { 'Content-Type': 'application/octet-stream' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/heard')
  async heard(@Param('id') id: string, @Res() response: Response) {
    response.sendFile(await this.footage.soundFile(id, 'heard'), {
      headers: { 'Content-Type': 'application/json' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Post('footage/:id/listening')
  @HttpCode(202)
  async listenAgain(@Param('id') id: string) {
    await this.footage.listenAgain(id);
    return {};
  }

  @Delete('footage/:id/listening')
  async stopListening(@Param('id') id: string) {
    await this.footage.stopListening(id);
    return {};
  }

  @Get('footage/:id/frame')
  @Header('Cache-Control', 'no-store')
  async frame(@Param('id') id: string, @Query() { sample }: WantedFrame) {
    return new StreamableFile(await this.footage.still(id, readSample(sample)), { type: 'image/png' });
  }
}
