import type { Effects } from '@idle-bend/core/look';
import type { ColourSpace } from '@idle-bend/core/colour';
import type { Size } from '@idle-bend/core/framing';
import type { Clip, Project } from '@idle-bend/core/model';
import type { PlacedItem } from '@idle-bend/core/reel';
import type { Sample } from '@idle-bend/core/sampling';
import type { Level } from '@idle-bend/pipeline';

/** Footage to be shown, and what is to be known of it to find a frame in it. */
export interface PreviewFilm {
  /** Whether its proxy is whole: `url` is that of the proxy then, else of the footage, under which pieces and pictures lie. */
  readonly isWhole: boolean;
  readonly url: string;
  readonly revision: string;
  readonly frames: number;
  readonly framesPerSecond: number;
  /** The colour space its pictures are brought into. */
  readonly space: ColourSpace;
}

export interface PreviewClip {
  readonly clip: Clip;
  /** The project with what the clip, and those that push it, need and nothing else. */
  readonly project: Project;
  /** The clip and, where one pushes the other, the clips on either side, in the clip's own time. */
  readonly places: readonly PlacedItem[];
  /** Where the footage it shows is, by source. */
  readonly films: Readonly<Record<string, PreviewFilm>>;
  /** How many frames it has on the reel: before a pinned cut other than its curve has. */
  readonly length: number;
  /** What accents do to its frames, by frame; most have none. */
  readonly effects: ReadonlyMap<number, Effects>;
  /** The size and colour space of the picture: those of a draft. */
  readonly size: Size;
  readonly space: ColourSpace;
}

/** Another curve, or another way of making the same one, drawn beside, over, or in turn with the first, or taken from it. */
export interface Compared {
  readonly clip: Clip;
  readonly project: Project;
  /** What its Flow frames are made at; as the clip's without one. */
  readonly level: Level | undefined;
  readonly how: 'side' | 'wipe' | 'blink' | 'difference';
  /** The other's frame is the one of the same timeline frame, or the one that shows the same source moment. */
  readonly by: 'time' | 'source';
  /** Where the wipe's edge is, as a share of the width: left of it the clip, right of it the other. */
  readonly edge: number;
}

/** Where its pictures come from: where its proxy is still being made, or cannot be decoded here, from the original, decoded here or by the server. */
export type Origin = 'proxy' | 'original' | 'server';

/** What is shown of a frame: its picture; it between the two real ones; or, over it, the motion as arrows or colour, or what either picture hides. */
export const LOOKS = ['picture', 'neighbours', 'arrows', 'colour', 'hidden', 'blended'] as const;
export type Look = (typeof LOOKS)[number];

export type ToPreview =
  | { readonly kind: 'canvas'; readonly canvas: OffscreenCanvas }
  | { readonly kind: 'clip'; readonly clip: PreviewClip }
  /** The clip that comes next while playing: opened, and the frames around `k` decoded, before it is wanted. */
  | { readonly kind: 'next'; readonly clip: PreviewClip; readonly k: number }
  | { readonly kind: 'compare'; readonly other: Compared | undefined }
  | { readonly kind: 'look'; readonly look: Look }
  /** Makes the frames of a stretch, both ends included, as renders make them, and keeps them; `undefined` stops. */
  | { readonly kind: 'smooth'; readonly stretch: { readonly from: number; readonly to: number } | undefined }
  /** Small pictures of frames of a source of the clip. */
  | { readonly kind: 'thumbs'; readonly sourceId: string; readonly frames: readonly number[] }
  /** `direction` is where playback is heading (0 when still). A settled picture has its checksum; `checksums` asks for those of others too. */
  | {
      readonly kind: 'show';
      readonly k: number;
      readonly direction: number;
      readonly settled: boolean;
      readonly checksums: boolean;
    };

export type FromPreview =
  | {
      readonly kind: 'shown';
      readonly k: number;
      /** Where playback was heading when it was asked for; 0 when still. */
      readonly direction: number;
      /** The clip's own source position there. */
      readonly position: number;
      readonly sample: Sample;
      /** What of which footage that is: of a group, a clip inside; nothing where it is black for want of a clip. */
      readonly film: { readonly sourceId: string; readonly name: string; readonly position: number } | undefined;
      readonly origin: Origin;
      /** Of a Flow frame: how well it was made. Settled frames are made as renders make them. */
      readonly level: Level | undefined;
      /** The source position of the other curve's frame, while two are compared. */
      readonly other: number | undefined;
      /** CRC-32 of the planes, when asked for: equal planes, equal number. */
      readonly fingerprint: string | undefined;
      readonly milliseconds: number;
    }
  | { readonly kind: 'smooth'; readonly done: number; readonly total: number }
  | { readonly kind: 'thumb'; readonly footageId: string; readonly frame: number; readonly picture: ImageBitmap }
  | { readonly kind: 'problem'; readonly message: string };
