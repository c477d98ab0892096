import { SOUND_RATE } from '@idle-bend/core/sound';
import type { Stereo } from './sound-provider.js';

/** Workers and Node have it; this package knows neither. */
declare const setTimeout: (act: (value: unknown) => void, milliseconds: number) => unknown;

/** What of the library's own processor is used: its compiled module, and where its buffers are. */
interface Processor {
  readonly wasmReady: boolean;
  readonly bufferLength: number | undefined;
  readonly buffersIn: readonly number[];
  readonly buffersOut: readonly number[];
  readonly wasmModule: {
    readonly HEAP8: Int8Array;
    _inputLatency(): number;
    _outputLatency(): number;
    _seek(samples: number, rate: number): void;
    _setTransposeSemitones(semitones: number, tonalityLimit: number): void;
    _process(inputs: number, outputs: number): void;
  };
}

interface WorkletGlobals {
  AudioWorkletProcessor?: unknown;
  registerProcessor?: unknown;
  sampleRate?: unknown;
}

let making: Promise<new (options: object) => Processor> | undefined;

/** The library is written for an audio worklet; given the few globals it looks for there, it runs anywhere. */
function processorClass(): Promise<new (options: object) => Processor> {
  making ??= (async () => {
    const globals = globalThis as WorkletGlobals;
    let found: (new (options: object) => Processor) | undefined;
    globals.AudioWorkletProcessor = class {
      readonly port = { onmessage: null, postMessage: () => undefined };
    };
    globals.registerProcessor = (_name: string, processor: typeof found) => (found = processor);
    try {
      await import('signalsmith-stretch');
    } finally {
      delete globals.registerProcessor;
    }
    if (!found) throw new Error('the stretching of sounds did not start');
    return found;
  })();
  return making;
}

/** Samples made at a time. */
export const STRETCH_BLOCK = 256;

/** Draws a sound out or together and keeps its pitch. Blocks follow one another; a fresh one makes of the same blocks the same sound. */
export class Stretcher {
  private constructor(private readonly processor: Processor) {}

  static async make(): Promise<Stretcher> {
    const Class = await processorClass();
    const globals = globalThis as WorkletGlobals;
    globals.sampleRate ??= SOUND_RATE;
    const processor = new Class({ numberOfOutputs: 1, outputChannelCount: [2] });
    while (!processor.wasmReady || processor.bufferLength === undefined)
      await new Promise((resolve) => setTimeout(resolve, 1));
    return new Stretcher(processor);
  }

  /** How far after the moment it is of a block's input ends, in samples. */
  get ahead(): number {
    return this.processor.wasmModule._inputLatency();
  }

  /** How long after it was put in the middle of a block comes out. */
  get late(): number {
    return this.processor.wasmModule._outputLatency();
  }

  /** Samples of input a block is made of. */
  get looksAt(): number {
    return this.processor.bufferLength!;
  }

  /**
   * The next block, of input at a rate (samples of input a sample of output). Where the input was read slower than it is, by `drawnOut` of
   * its speed, its pitch is raised again by as much.
   */
  next([left, right]: Stereo, rate: number, out: Stereo, at: number, drawnOut = 1): void {
    const { wasmModule, buffersIn, buffersOut, bufferLength } = this.processor;
    const view = (address: number, count: number) => new Float32Array(wasmModule.HEAP8.buffer, address, count);
    view(buffersIn[0]!, bufferLength!).set(left);
    view(buffersIn[1]!, bufferLength!).set(right);
    wasmModule._setTransposeSemitones(-12 * Math.log2(drawnOut), 1);
    wasmModule._seek(bufferLength!, rate);
    wasmModule._process(0, STRETCH_BLOCK);
    const count = Math.min(STRETCH_BLOCK, out[0].length - at);
    out[0].set(view(buffersOut[0]!, count), at);
    out[1].set(view(buffersOut[1]!, count), at);
  }
}
