import { Module } from '@nestjs/common';
import { MediaRootsModule } from '../media-roots/media-roots.module.js';
import { ProjectsModule } from '../projects/projects.module.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageBin } from './footage-bin.js';
import { FootageController } from './footage.controller.js';
import { FootageLibrary } from './footage-library.js';
import { FootageMedia } from './footage-media.js';
import { FootagePaths } from './footage-paths.js';
import { FootagePictures } from './footage-pictures.js';
import { FootageRecovery } from './footage-recovery.js';
import { FootageRows } from './footage-rows.js';
import { Foreground } from './foreground.js';
import { FrameCounts } from './frame-counts.js';
import { MediaController } from './media.controller.js';
import { MotionCacheStore } from './motion-cache.js';
import { Proxies } from './proxies.js';
import { ProxySizes } from './proxy-sizes.js';
import { ReferenceLibrary } from './reference-library.js';
import { References } from './references.js';
import { SameContent } from './same-content.js';
import { Sequences } from './sequences.js';
import { WatchedFolder } from './watched-folder.js';

/** Footage: how files come in, what is made of them, and what is played of them. */
@Module({
  imports: [ProjectsModule, MediaRootsModule],
  controllers: [FootageController, MediaController],
  providers: [
    FootagePaths,
    FootageRows,
    FootageAnalysis,
    FootageBin,
    FootageLibrary,
    FootageMedia,
    FootagePictures,
    FootageRecovery,
    Foreground,
    FrameCounts,
    MotionCacheStore,
    Proxies,
    ProxySizes,
    ReferenceLibrary,
    References,
    SameContent,
    Sequences,
    WatchedFolder,
  ],
  exports: [
    FootageAnalysis,
    FootageBin,
    FootageLibrary,
    FootageMedia,
    FootagePaths,
    FootageRows,
    Foreground,
    MotionCacheStore,
    Sequences,
  ],
})
export class FootageModule {}
