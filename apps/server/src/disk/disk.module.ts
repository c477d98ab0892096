import { Module } from '@nestjs/common';
import { FootageModule } from '../footage/footage.module.js';
import { ProjectsModule } from '../projects/projects.module.js';
import { RendersModule } from '../renders/renders.module.js';
import { Disk } from './disk.js';
import { DiskController } from './disk.controller.js';

/** What the data folder holds. */
@Module({ imports: [ProjectsModule, FootageModule, RendersModule], controllers: [DiskController], providers: [Disk] })
export class DiskModule {}
