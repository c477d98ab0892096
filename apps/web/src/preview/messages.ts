import type { EndChoice, Method, Sample, TimeMap } from '@idle-bend/core';

export interface PreviewClip {
  readonly footageId: string;
  readonly url: string;
  readonly frames: number;
  readonly framesPerSecond: number;
  readonly map: TimeMap;
  readonly method: Method;
  readonly end: EndChoice;
}

export type ToPreview =
  | { readonly kind: 'canvas'; readonly canvas: OffscreenCanvas }
  | { readonly kind: 'clip'; readonly clip: PreviewClip }
  /** `direction` is where playback is heading (0 when still); `settled` asks for the picture's fingerprint too. */
  | { readonly kind: 'show'; readonly k: number; readonly direction: number; readonly settled: boolean };

export type FromPreview =
  | {
      readonly kind: 'shown';
      readonly k: number;
      readonly position: number;
      readonly sample: Sample;
      /** CRC-32 of the planes, when asked for: equal planes, equal number. */
      readonly fingerprint: string | undefined;
      readonly milliseconds: number;
    }
  | { readonly kind: 'problem'; readonly message: string };
