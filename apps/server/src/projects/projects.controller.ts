import {
  BadRequestException,
  Body,
  Controller,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Patch,
  Post,
  Put,
  Sse,
  ValidationPipe,
} from '@nestjs/common';
import { parseRate } from '@idle-bend/core/time';
import { IsInt, IsOptional, IsString, MaxLength, Min } from 'class-validator';
import { IsName } from '../trust/words.js';
import { Events } from '../events/events.js';
import { Projects } from './projects.js';
import { Id } from '../trust/id.js';

class NewProject {
  @IsName(120) name!: string;
  /** Frames per second of the reel, such as "24" or "30000/1001". */
  @IsOptional() @IsString() @MaxLength(30) rate?: string;
}

class NewProjectName {
  @IsName(120) name!: string;
}

class EditOf {
  @IsInt() @Min(1) version!: number;
  @IsString() @MaxLength(64) by!: string;
}

const WORDS = new ValidationPipe({ whitelist: true, forbidNonWhitelisted: true });

@Controller('api/projects')
export class ProjectsController {
  constructor(
    private readonly projects: Projects,
    private readonly events: Events,
  ) {}

  @Get()
  list() {
    return this.projects.list();
  }

  @Post()
  create(@Body() { name, rate }: NewProject) {
    return this.projects.create(name, parseRate(rate ?? '24'));
  }

  @Get(':id')
  open(@Id() id: string) {
    return this.projects.open(id);
  }

  @Patch(':id')
  async rename(@Id() id: string, @Body() { name }: NewProjectName) {
    await this.projects.rename(id, name);
    return { name };
  }

  /** The document has a reader of its own, so it does not go through the validator: that would take five times as long as all the rest. */
  @Put(':id/document')
  async keep(@Id() id: string, @Body() body: Record<string, unknown> = {}) {
    const { document, ...words } = body;
    const { version, by } = (await WORDS.transform(words, { type: 'body', metatype: EditOf })) as EditOf;
    if (typeof document !== 'object' || document === null) throw new BadRequestException('document must be an object');
    return { version: await this.projects.keep(id, version, document, by) };
  }

  @Get(':id/backups')
  async backups(@Id() id: string) {
    await this.projects.row(id);
    return this.projects.listBackups(id);
  }

  @Post(':id/backups/:version/restore')
  @HttpCode(200)
  async goBack(@Id() id: string, @Param('version', ParseIntPipe) version: number) {
    return { version: await this.projects.goBack(id, version) };
  }

  @Sse(':id/events')
  async watch(@Id() id: string) {
    await this.projects.row(id);
    return this.events.of(id);
  }
}
