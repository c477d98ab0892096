import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import {
  BadRequestException,
  Controller,
  Get,
  GoneException,
  HttpCode,
  NotFoundException,
  Param,
  Post,
  Put,
  Req,
  Res,
  UnprocessableEntityException,
} from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core/foundation';
import { checkChunk, chunkKind, chunkName, MediaError } from '@idle-bend/media';
import { Matches } from 'class-validator';
import type { Request, Response } from 'express';
import { FootageMedia } from '../footage/footage-media.js';
import { ChunkRow, RenderRow } from '../storage/rows.js';
import { RenderQueue } from './render-queue.js';
import { ACTIVE, projectOf, settingsOf } from './render-rows.js';
import { Id } from '../trust/id.js';

class ChunkAddress {
  @Matches(/^[\w-]{1,64}$/) render!: string;
  @Matches(/^[0-9]{1,7}$/) number!: string;
}

/** A try to bring a chunk of a render. */
class DeliveryAddress extends ChunkAddress {
  @Matches(/^[\w-]{1,64}$/) delivery!: string;
}

class DeliveredFileAddress extends DeliveryAddress {
  @Matches(/^[\w-]{1,100}(\.\w{1,10})?$/) name!: string;
}

/** For workers that do not see the data folder: media to fetch, and finished chunks to bring. A chunk takes its place at once and whole; brought twice, it is the same. */
@Controller('api/work')
export class WorkController {
  constructor(
    private readonly footage: FootageMedia,
    private readonly queue: RenderQueue,
  ) {}

  @Get('media/:id/:name')
  async media(@Id() id: string, @Param('name') name: string, @Res() response: Response) {
    response.sendFile(await this.footage.mediaFile(id, name), { dotfiles: 'allow' });
  }

  /** Asked before a chunk is made: 404 where another server's render is meant, 410 where nobody waits for it any more. */
  @Get(':render/:number')
  async isWanted(@Param() { render, number }: ChunkAddress) {
    await this.wanted(render, Number(number));
    return {};
  }

  @Put(':render/:number/:delivery/:name')
  async bring(@Param() { render, number, delivery, name }: DeliveredFileAddress, @Req() request: Request) {
    const row = await this.wanted(render, Number(number));
    const folder = this.place(render, Number(number), delivery);
    await mkdir(folder, { recursive: true });
    if ((await readdir(folder)).length > row.frames)
      throw new InvalidInput('delivery', 'has more files than the chunk has frames');
    // A body that stops coming does not keep its place for ever.
    request.setTimeout(SILENCE_MS, () => request.destroy(new Error('the body stopped coming')));
    const most = maxBytes(row);
    let bytes = 0;
    const counted = new Transform({
      transform(piece: Buffer, _, done) {
        bytes += piece.length;
        done(bytes > most ? new InvalidInput('chunk', `is larger than the ${most} bytes it can have`) : null, piece);
      },
    });
    const file = join(folder, name);
    try {
      await pipeline(request, counted, createWriteStream(file));
    } catch (error) {
      await rm(file, { force: true });
      throw error instanceof InvalidInput ? error : new BadRequestException('The chunk broke off on its way.');
    }
    return {};
  }

  /** What was brought takes the chunk's place once it has been looked at; a good one is not given up for a bad one. */
  @Post(':render/:number/:delivery/done')
  @HttpCode(200)
  async done(@Param() { render, number, delivery }: DeliveryAddress) {
    const chunk = Number(number);
    const row = await this.wanted(render, chunk);
    const { format } = settingsOf(row);
    const folder = this.place(render, chunk, delivery);
    const name = chunkName(format, chunk);
    const target = join(this.queue.folder(render), name);
    const numbered = chunkKind(format).muxer === 'image2';
    const brought = numbered ? folder : join(folder, name);
    const { first, end } = (await ChunkRow.findOne({ where: { renderId: render, number: chunk } }))!;
    try {
      await checkChunk(brought, format, end - first, first - row.first);
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error instanceof MediaError ? new UnprocessableEntityException(error.message) : error;
    }
    await rm(target, { recursive: true, force: true });
    await rename(brought, target);
    await rm(folder, { recursive: true, force: true });
    return {};
  }

  private place(render: string, number: number, delivery: string): string {
    return join(this.queue.folder(render), `.brought-${number}-${delivery}`);
  }

  /** Throws where nobody waits for that chunk (any more). */
  private async wanted(renderId: string, number: number): Promise<RenderRow> {
    const row = await RenderRow.findByPk(renderId);
    if (!row || !(await ChunkRow.findOne({ where: { renderId, number } })))
      throw new NotFoundException('There is no such chunk.');
    if (!(ACTIVE as readonly string[]).includes(row.status))
      throw new GoneException('Nobody waits for this chunk any more.');
    return row;
  }
}

/** A worker says something at least so often while it brings a chunk. */
const SILENCE_MS = 60_000;

/** Many times what any real encode takes, so that only impossible values are refused. */
const maxBytes = (row: RenderRow): number => {
  const { width, height } = projectOf(row).reel;
  return Math.max(2 ** 26, width * height * 8 * 2 * Math.min(row.frames, 4000));
};
