import { Body, Controller, Delete, Get, HttpCode, Patch, Post } from '@nestjs/common';
import { Projects } from '../projects/projects.js';
import { IsName } from '../trust/words.js';
import { FootageAnalysis } from './footage-analysis.js';
import { FootageLibrary } from './footage-library.js';
import { FootageRows } from './footage-rows.js';
import { Id } from '../trust/id.js';

class NewFootageName {
  @IsName(200) name!: string;
}

/** The footage of projects: what there is, its names, and what is done with it in the background. */
@Controller('api')
export class FootageController {
  constructor(
    private readonly library: FootageLibrary,
    private readonly rows: FootageRows,
    private readonly analysis: FootageAnalysis,
    private readonly projects: Projects,
  ) {}

  @Get('projects/:id/footage')
  async list(@Id() id: string) {
    await this.projects.row(id);
    return this.library.list(id);
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
    await this.library.remove(id);
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
