import { Module } from '@nestjs/common';
import { MediaLook } from './media-look.js';
import { MediaRootsController } from './media-roots.controller.js';
import { MediaRoots } from './media-roots.js';

/** Folders of this machine whose files are used where they lie. */
@Module({ controllers: [MediaRootsController], providers: [MediaRoots, MediaLook], exports: [MediaRoots, MediaLook] })
export class MediaRootsModule {}
