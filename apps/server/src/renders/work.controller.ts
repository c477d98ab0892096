import { createWriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Controller, Get, GoneException, HttpCode, NotFoundException, Param, ParseIntPipe, Post, Put, Req, Res } from '@nestjs/common';
import { InvalidInput } from '@idle-bend/core';
import { chunkKind, chunkName } from '@idle-bend/media';
import type { Request, Response } from 'express';
import { FootageStore } from '../footage/footage.js';
import { ChunkRow, RenderRow } from '../storage/rows.js';
import { RenderQueue } from './render-queue.js';
import { ACTIVE, settingsOf } from './render-rows.js';

/** For workers that do not see the data folder: media to fetch, and finished chunks to bring. A chunk takes its place at once and whole; brought twice, it is the same. */
@Controller('api/work')
export class WorkController {
  constructor(
    private readonly footage: FootageStore,
    private readonly queue: RenderQueue,
  ) {}

  @Get('media/:id/:name')
  async media(@Param('id') id: string, @Param('name') name: string, @Res() response: Response) {
    response.sendFile(await this.footage.mediaFile(id, name), { dotfiles: 'allow' });
  }

  @Put(':render/:number/:delivery/:name')
  async bring(@Param() { render, number, delivery, name }: Record<string, string>, @Req() request: Request) {
    await this.wanted(render!, Number(number));
    const folder = this.place(render!, Number(number), delivery!);
    if (!/^[\w-]+(\.\w+)?$/.test(name!)) throw new InvalidInput('name', 'must be made of letters, digits, _ and -');
    await mkdir(folder, { recursive: true });
    await pipeline(request, createWriteStream(join(folder, name!)));
    return {};
  }

  @Post(':render/:number/:delivery/done')
  @HttpCode(200)
  async done(@Param('render') render: string, @Param('number', ParseIntPipe) number: number, @Param('delivery') delivery: string) {
    const row = await this.wanted(render, number);
    const { format } = settingsOf(row);
    const folder = this.place(render, number, delivery);
    const name = chunkName(format, number);
    const target = join(this.queue.folder(render), name);
    const numbered = chunkKind(format).muxer === 'image2';
    await rm(target, { recursive: true, force: true });
    await rename(numbered ? folder : join(folder, name), target);
    await rm(folder, { recursive: true, force: true });
    return {};
  }

  private place(render: string, number: number, delivery: string): string {
    if (!/^[\w-]{1,64}$/.test(delivery)) throw new InvalidInput('delivery', 'must be made of letters, digits, _ and -');
    return join(this.queue.folder(render), `.brought-${number}-${delivery}`);
  }

  /** Throws where nobody waits for that chunk (any more). */
  private async wanted(renderId: string, number: number): Promise<RenderRow> {
    const row = await RenderRow.findByPk(renderId);
    if (!row || !(await ChunkRow.findOne({ where: { renderId, number } }))) throw new NotFoundException('There is no such chunk.');
    if (!(ACTIVE as readonly string[]).includes(row.status)) throw new GoneException('Nobody waits for this chunk any more.');
    return row;
  }
}
