import { Body, Controller, Delete, Get, HttpCode, Post } from '@nestjs/common';
import { FootageBin } from '../footage/footage-bin.js';
import { IsName } from '../trust/words.js';
import { Id } from '../trust/id.js';
import { Bin } from './bin.js';

class CopyName {
  @IsName(120) name!: string;
}

@Controller('api')
export class BinController {
  constructor(
    private readonly bin: Bin,
    private readonly footage: FootageBin,
  ) {}

  @Get('bin')
  list() {
    return this.bin.list();
  }

  @Get('disk/projects')
  sizes() {
    return this.bin.sizes();
  }

  @Post('projects/:id/duplicate')
  duplicate(@Id() id: string, @Body() { name }: CopyName) {
    return this.bin.duplicate(id, name);
  }

  @Delete('projects/:id')
  @HttpCode(204)
  async put(@Id() id: string) {
    await this.bin.put(id);
  }

  @Post('bin/:id/restore')
  @HttpCode(204)
  async restore(@Id() id: string) {
    await this.bin.restore(id);
  }

  @Post('footage/:id/restore')
  @HttpCode(204)
  async restoreFootage(@Id() id: string) {
    await this.footage.restore(id);
  }

  @Delete('bin/footage/:id')
  @HttpCode(204)
  async removeFootage(@Id() id: string) {
    await this.footage.remove(id);
  }

  @Delete('bin/:id')
  @HttpCode(204)
  async remove(@Id() id: string) {
    await this.bin.remove(id);
  }
}
