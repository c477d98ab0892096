import { Module } from '@nestjs/common';
import { FootageModule } from '../footage/footage.module.js';
import { ProjectsModule } from '../projects/projects.module.js';
import { RendersModule } from '../renders/renders.module.js';
import { Bin } from './bin.js';
import { BinController } from './bin.controller.js';

/** Projects as wholes: duplicated, put into the bin, and back. */
@Module({ imports: [ProjectsModule, FootageModule, RendersModule], controllers: [BinController], providers: [Bin] })
export class BinModule {}
