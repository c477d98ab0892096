import type { EndChoice, Method, Sample, Skips, TimeMap } from '@idle-bend/core';
import type { Level } from '@idle-bend/pipeline';

export interface PreviewClip {
  readonly footageId: string;
  readonly url: string;
  readonly frames: number;
  readonly framesPerSecond: number;
  readonly skips: Skips | null;
  readonly map: TimeMap;
  readonly method: Method;
  readonly end: EndChoice;
}

/** Another curve of the same clip, drawn beside, over, or in turn with the first. */
export interface Compared {
  readonly map: TimeMap;
  readonly how: 'side' | 'wipe' | 'blink';
  /** The other's frame is the one of the same timeline frame, or the one that shows the same source moment. */
  readonly by: 'time' | 'source';
  /** Where the wipe's edge is, as a share of the width: left of it the clip, right of it the other. */
  readonly edge: number;
}

export type ToPreview =
  | { readonly kind: 'canvas'; readonly canvas: OffscreenCanvas }
  | { readonly kind: 'clip'; readonly clip: PreviewClip }
  | { readonly kind: 'compare'; readonly other: Compared | undefined }
  /** `direction` is where playback is heading (0 when still); `settled` asks for the picture's fingerprint too. */
  | { readonly kind: 'show'; readonly k: number; readonly direction: number; readonly settled: boolean };

export type FromPreview =
  | {
      readonly kind: 'shown';
      readonly k: number;
      readonly position: number;
      readonly sample: Sample;
      /** Of a Flow frame: how well it was made. Settled frames are made as renders make them. */
      readonly level: Level | undefined;
      /** The source position of the other curve's frame, while two are compared. */
      readonly other: number | undefined;
      /** CRC-32 of the planes, when asked for: equal planes, equal number. */
      readonly fingerprint: string | undefined;
      readonly milliseconds: number;
    }
  | { readonly kind: 'problem'; readonly message: string };
