import { Module } from '@nestjs/common';
import { Backups } from './backups.js';
import { ProjectsController } from './projects.controller.js';
import { Projects } from './projects.js';

/** Projects: their documents, and earlier states of them. */
@Module({ controllers: [ProjectsController], providers: [Backups, Projects], exports: [Backups, Projects] })
export class ProjectsModule {}
