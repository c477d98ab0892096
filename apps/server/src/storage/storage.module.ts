import { Global, Module, type DynamicModule } from '@nestjs/common';
import { Config } from '../config.js';
import { Events } from '../events/events.js';

/** What every area may ask for: how the server was started, and the events windows listen to. */
@Global()
@Module({ providers: [Events], exports: [Events] })
export class StorageModule {
  static with(config: Config): DynamicModule {
    return { module: StorageModule, providers: [{ provide: Config, useValue: config }], exports: [Config] };
  }
}
