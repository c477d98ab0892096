import { Body, Controller, Delete, Get, HttpCode, Patch, Post, Put } from '@nestjs/common';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Matches,
  MaxLength,
  Min,
} from 'class-validator';
import { PROXY_LINES, type ProxyLines } from '@idle-bend/core/proxy';
import { Config } from '../config.js';
import { MediaRoots } from '../media-roots/media-roots.js';
import { Projects } from '../projects/projects.js';
import { IsName } from '../trust/words.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageBin } from './footage-bin.js';
import { FootageLibrary } from './footage-library.js';
import { FootagePictures } from './footage-pictures.js';
import { FootageRows } from './footage-rows.js';
import { ProxySizes } from './proxy-sizes.js';
import { ReferenceLibrary } from './reference-library.js';
import { References } from './references.js';
import { Id } from '../trust/id.js';

class NewFootageName {
  @IsName(200) name!: string;
}

/** Paths inside a media root: files, or folders whose footage is meant. */
class WantedReferences {
  @Matches(/^[\w-]{1,64}$/) root!: string;
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(2000)
  @IsString({ each: true })
  @MaxLength(2000, { each: true })
  paths!: string[];
}

class ChosenInBrowser {
  @IsName(500) name!: string;
  @IsInt() @Min(1) bytes!: number;
  @IsNumber() modifiedMs!: number;
  @Matches(/^[0-9a-f]{64}$/) fingerprint!: string;
}

class WantedLines {
  @IsIn(PROXY_LINES) lines!: ProxyLines;
}

class ChangedReference {
  @IsBoolean() same!: boolean;
}

/** The footage of projects: what there is, its names, and what is done with it in the background. */
@Controller('api')
export class FootageController {
  constructor(
    private readonly library: FootageLibrary,
    private readonly bin: FootageBin,
    private readonly rows: FootageRows,
    private readonly analysis: FootageAnalysis,
    private readonly projects: Projects,
    private readonly references: References,
    private readonly referenced: ReferenceLibrary,
    private readonly pictures: FootagePictures,
    private readonly roots: MediaRoots,
    private readonly sizes: ProxySizes,
    private readonly config: Config,
  ) {}

  @Get('projects/:id/proxy-lines')
  async proxyLines(@Id() id: string) {
    return { lines: (await this.projects.row(id)).proxyLines };
  }

  /** Proxies are made again at another size, those that are there already too. */
  @Put('projects/:id/proxy-lines')
  async setProxyLines(@Id() id: string, @Body() { lines }: WantedLines) {
    await this.sizes.set(id, lines);
    return { lines };
  }

  @Get('projects/:id/footage')
  async list(@Id() id: string) {
    await this.projects.row(id);
    return this.library.list(id);
  }

  /** Footage of files where they lie; answers what was taken, and why the rest was not. */
  @Post('projects/:id/references')
  @HttpCode(200)
  async refer(@Id() id: string, @Body() { root, paths }: WantedReferences) {
    this.roots.checkShown();
    await this.projects.row(id);
    this.pictures.warmUp();
    return this.references.take(id, root, paths);
  }

  /** A file that was chosen in a browser, used where it lies if it lies in a media folder; `footage` is null if not. */
  @Post('projects/:id/references/same')
  @HttpCode(200)
  async same(@Id() id: string, @Body() file: ChosenInBrowser) {
    await this.projects.row(id);
    return { footage: (this.config.showsMedia && (await this.referenced.takeSame(id, file))) || null };
  }

  /** Looks for the missing files of a project in the media roots; answers the footage that was found. */
  @Post('projects/:id/references/search')
  @HttpCode(200)
  search(@Id() id: string) {
    this.roots.checkShown();
    return this.referenced.lookForMissing(id);
  }

  /** A file that was changed where it lies is taken as it is now, or said to be the same. */
  @Post('footage/:id/reference')
  @HttpCode(200)
  takeChanged(@Id() id: string, @Body() { same }: ChangedReference) {
    return this.referenced.takeChanged(id, same);
  }

  @Patch('footage/:id')
  rename(@Id() id: string, @Body() { name }: NewFootageName) {
    return this.library.rename(id, name);
  }

  @Post('footage/:id/fields')
  @HttpCode(202)
  async fields(@Id() id: string) {
    await this.library.takeFields(id);
    return {};
  }

  @Delete('footage/:id')
  async remove(@Id() id: string) {
    await this.bin.put(id);
    return {};
  }

  /** Somebody looks at it: its motion is looked for before that of other footage. */
  @Post('footage/:id/motion')
  @HttpCode(202)
  async motionFirst(@Id() id: string) {
    this.analysis.motionFirst(await this.rows.row(id));
    return {};
  }

  @Post('footage/:id/listening')
  @HttpCode(202)
  async listenAgain(@Id() id: string) {
    await this.analysis.listenAgain(await this.rows.row(id));
    return {};
  }

  @Delete('footage/:id/listening')
  async stopListening(@Id() id: string) {
    this.analysis.stopListening((await this.rows.row(id)).id);
    return {};
  }
}
