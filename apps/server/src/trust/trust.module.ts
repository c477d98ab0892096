import { Module } from '@nestjs/common';
import { StateController } from './state.controller.js';

/** What is not as it should be with the machine. The gate, the errors' sentences and the sign-in stand before every area. */
@Module({ controllers: [StateController] })
export class TrustModule {}
