import { Module } from '@nestjs/common';
import { FootageModule } from '../footage/footage.module.js';
import { ProjectsModule } from '../projects/projects.module.js';
import { RenderQueue } from './render-queue.js';
import { RendersController } from './renders.controller.js';
import { Renders } from './renders.js';
import { WorkController } from './work.controller.js';

/** Renders: the queue, the files, and the workers on other machines. */
@Module({
  imports: [ProjectsModule, FootageModule],
  controllers: [RendersController, WorkController],
  providers: [RenderQueue, Renders],
  exports: [RenderQueue, Renders],
})
export class RendersModule {}
