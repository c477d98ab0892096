import { DROPPABLE_KINDS, type DroppableKind } from '@idle-bend/core/api';
import { Controller, Delete, Get, NotFoundException, Param } from '@nestjs/common';
import { Disk } from './disk.js';

@Controller('api/disk')
export class DiskController {
  constructor(private readonly disk: Disk) {}

  @Get()
  use() {
    return this.disk.use();
  }

  @Delete(':kind')
  async drop(@Param('kind') kind: string) {
    if (!(DROPPABLE_KINDS as readonly string[]).includes(kind))
      throw new NotFoundException(`Of the data folder, ${DROPPABLE_KINDS.join(', ')} can be dropped.`);
    await this.disk.drop(kind as DroppableKind);
    return this.disk.use();
  }
}
