import { Module } from '@nestjs/common';
import { FootageModule } from '../footage/footage.module.js';
import { ProjectsModule } from '../projects/projects.module.js';
import { BundlesController } from './bundles.controller.js';
import { Bundles } from './bundles.js';
import { Uploads } from './uploads.js';
import { ShapesController } from './shapes.controller.js';

/** What comes in and goes out: uploads of footage, whole projects as bundles, and shapes. */
@Module({
  imports: [ProjectsModule, FootageModule],
  controllers: [BundlesController, ShapesController],
  providers: [Bundles, Uploads],
  exports: [Uploads],
})
export class ExchangeModule {}
