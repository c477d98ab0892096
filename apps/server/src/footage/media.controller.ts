import { InvalidInput } from '@idle-bend/core/foundation';
import { parseSample, type Sample } from '@idle-bend/core/sampling';
import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  NotFoundException,
  Param,
  ParseIntPipe,
  Post,
  Put,
  Query,
  Res,
  StreamableFile,
} from '@nestjs/common';
import { Type } from 'class-transformer';
import { IsInt, IsNumber, IsOptional, IsString, Max, MaxLength, Min } from 'class-validator';
import type { Response } from 'express';
import { FootageMedia } from './footage-media.js';
import { FootagePictures } from './footage-pictures.js';
import { Foreground } from './foreground.js';
import { MotionCacheStore } from './motion-cache.js';
import { Id } from '../trust/id.js';

class LookedAt {
  @IsOptional() @Type(() => Number) @IsInt() @Min(0) at?: number;
}

/** A sample (docs/api.md) as JSON text. */
class WantedFrame {
  @IsString() @MaxLength(14_000) sample!: string;
}

/** A frame of the reel, or of the reel inside a group of it. */
class WantedReelFrame {
  @Type(() => Number) @IsInt() @Min(0) frame!: number;
  @IsOptional() @IsString() @MaxLength(64) within?: string;
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

/** What is played and drawn of footage: proxies, sounds, what was found in them, and frames made when asked for. */
@Controller('api')
export class MediaController {
  constructor(
    private readonly media: FootageMedia,
    private readonly pictures: FootagePictures,
    private readonly motionStore: MotionCacheStore,
    private readonly foreground: Foreground,
  ) {}

  /** A window plays: what is made ahead stands still for ten seconds, or until it stops. */
  @Put('playing/:window')
  playing(@Id('window') window: string) {
    this.foreground.playing(window);
    return {};
  }

  @Delete('playing/:window')
  stopped(@Id('window') window: string) {
    this.foreground.stopped(window);
    return {};
  }

  @Get('footage/:id/proxy')
  async proxy(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.file(id, 'proxy'), {
      headers: { 'Content-Type': 'video/mp4' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  /** Which pieces of its proxy there are; those at a frame somebody looks at are made first. */
  @Get('footage/:id/pieces')
  @Header('Cache-Control', 'no-store')
  async pieces(@Id() id: string, @Query() { at }: LookedAt) {
    if (at !== undefined) await this.pictures.lookAt(id, at);
    return this.media.pieces(id);
  }

  @Get('footage/:id/pieces/:piece')
  async piece(@Id() id: string, @Param('piece', ParseIntPipe) piece: number, @Res() response: Response) {
    response.sendFile(await this.media.pieceFile(id, piece), {
      headers: { 'Content-Type': 'video/mp4' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/poster')
  async poster(@Id() id: string, @Res() response: Response) {
    response.setHeader('Cache-Control', 'max-age=3600');
    response.type('image/jpeg').send(await this.pictures.poster(id));
  }

  @Get('footage/:id/strip')
  async strip(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.file(id, 'strip'), { maxAge: '1h', dotfiles: 'allow' });
  }

  @Get('footage/:id/motion')
  async motion(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.motionFile(id), {
      headers: { 'Content-Type': 'application/json' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/sound')
  async sound(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.soundFile(id, 'sound'), {
      headers: { 'Content-Type': 'audio/flac' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/peaks')
  async peaks(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.soundFile(id, 'peaks'), {
      headers: { 'Content-Type': 'application/octet-stream' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Get('footage/:id/heard')
  async heard(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.soundFile(id, 'heard'), {
      headers: { 'Content-Type': 'application/json' },
      maxAge: '1h',
      dotfiles: 'allow',
    });
  }

  @Post('footage/:id/places')
  @HttpCode(200)
  async places(@Id() id: string, @Body() { from, to, x, y, size }: WantedPatch) {
    return { places: await this.pictures.followPatch(id, from, to, { x, y, size }) };
  }

  @Get('footage/:id/frame')
  @Header('Cache-Control', 'no-store')
  async frame(@Id() id: string, @Query() { sample }: WantedFrame) {
    return new StreamableFile(await this.pictures.still(id, readSample(sample)), { type: 'image/png' });
  }

  /** Planar 8-bit codes; what they are stands in `X-Frame-Format` (docs/api.md). */
  @Get('footage/:id/pictures/:frame')
  @Header('Cache-Control', 'no-store')
  async picture(@Id() id: string, @Param('frame', ParseIntPipe) frame: number, @Res() response: Response) {
    if (frame < 0) throw new NotFoundException('Frames are counted from 0.');
    const { format, data } = await this.pictures.picture(id, frame);
    response.setHeader('X-Frame-Format', JSON.stringify(format));
    response.type('application/octet-stream').send(Buffer.from(data.buffer, data.byteOffset, data.byteLength));
  }

  /** When each frame of the original is shown, for browsers that decode it themselves (docs/api.md). */
  @Get('footage/:id/times')
  @Header('Cache-Control', 'no-store')
  times(@Id() id: string) {
    return this.pictures.times(id);
  }

  /** The original's bytes, by ranges. Never as anything a browser would show by itself. */
  @Get('footage/:id/original')
  async original(@Id() id: string, @Res() response: Response) {
    response.sendFile(await this.media.originalFile(id), {
      headers: { 'Content-Type': 'application/octet-stream', 'Content-Disposition': 'attachment' },
      cacheControl: false,
      dotfiles: 'allow',
    });
  }

  @Get('projects/:id/frame')
  @Header('Cache-Control', 'no-store')
  async reelFrame(@Id() id: string, @Query() { frame, within }: WantedReelFrame) {
    return new StreamableFile(await this.pictures.reelFrame(id, frame, within), { type: 'image/png' });
  }

  @Get('motion-cache')
  motionCache() {
    return this.motionStore.content();
  }

  @Delete('motion-cache')
  async dropMotionCache() {
    await this.motionStore.clear();
    return {};
  }
}
