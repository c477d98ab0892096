import type { BeatAnalysis } from '../beats/analyse.js';
import type { ColourSpace } from '../colour/colour-space.js';
import type { Health } from '../health/health.js';
import type { Project } from '../model/project.js';
import type { Stretch } from '../model/reel.js';
import type { RenderCost } from '../render/cost.js';
import type { RenderSettings } from '../render/settings.js';
import type { Rate } from '../time/rate.js';

/** What the server and the interface say to one another (docs/api.md). Plain JSON. */

export interface ProjectSummary {
  readonly id: string;
  readonly name: string;
  /** Grows by one with every change that is kept. */
  readonly version: number;
  /** ISO 8601. */
  readonly updatedAt: string;
  /** The footage whose filmstrip stands for the project: the first that is ready. */
  readonly coverId: string | null;
}

/** What projects take on disk, in bytes, by their ids: copies of footage, what was made of it, and renders. */
export type ProjectSizes = Readonly<Record<string, number>>;

/** A project in the bin, or footage that was put there by itself. */
export interface Binned {
  readonly id: string;
  readonly kind: 'project' | 'footage';
  readonly name: string;
  /** The project footage is of. */
  readonly of: string | null;
  /** When it goes for good, ISO 8601. */
  readonly goesAt: string;
  /** What it takes on disk: footage, and the renders of a project. */
  readonly bytes: number;
}

export interface OpenedProject extends ProjectSummary {
  /** Files put into this folder are imported. */
  readonly watchedFolder: string;
  readonly document: Project;
}

/** An earlier state of a project that can be gone back to. */
export interface Backup {
  readonly version: number;
  /** ISO 8601. */
  readonly keptAt: string;
  readonly clips: number;
  readonly frames: number;
  /** How it differs from the state before it that is listed, in a few words; nothing for the first. */
  readonly changed: string | null;
  /** Where the reel begins, in its middle and at its end: the footage, and the source frame of it, that is in sight. Black is left out. */
  readonly shows: readonly { readonly footageId: string; readonly frame: number }[];
}

/** What is known of a clip's picture. Width and height in samples as shown, after rotation. */
export interface PictureFacts {
  readonly rate: Rate;
  readonly frames: number;
  readonly width: number;
  readonly height: number;
  readonly codec: string;
  readonly pixelAspect: { readonly num: number; readonly den: number };
  /** Degrees clockwise by which the stored picture is turned for showing. */
  readonly rotation: number;
  readonly bitDepth: number;
  /** Its brightness is coded for high dynamic range: SMPTE ST 2084 (pq) or ARIB STD-B67 (hlg). */
  readonly highRange: 'pq' | 'hlg' | null;
  /** What its codes mean, untagged pictures by the usual rule; not known of footage that was looked into before this was kept. */
  readonly colour?: ColourSpace;
  /** It has transparency. */
  readonly alpha: boolean;
  /** Set when the file's rate is variable: how many grid frames hold the one before, how many frames were left out. */
  readonly variable: { readonly held: number; readonly dropped: number } | null;
  readonly interlaced: boolean;
  /** The start timecode counts drop-frame. */
  readonly dropFrame: boolean;
  readonly proxy: { readonly width: number; readonly height: number };
  /** The filmstrip holds `count` pictures, every `step`-th frame. */
  readonly strip: { readonly step: number; readonly count: number };
  /** Set where its frames were estimated when it was taken in: what was said then, and whether they have been counted since. */
  readonly estimate?: FrameEstimate;
}

/** How many frames a file was taken to have, how far apart. */
export interface FrameEstimate {
  readonly rate: Rate;
  readonly frames: number;
  readonly isCounted: boolean;
}

interface SoundFacts {
  readonly codec: string;
  readonly channels: number;
  readonly sampleRate: number;
  /** Against the first picture, seconds. */
  readonly startSeconds: number;
}

/** What is known of a piece of footage; a recording of sound alone has no picture. */
export interface FootageFacts {
  readonly container: string;
  readonly bytes: number;
  readonly durationSeconds: number | null;
  readonly startTimecode: string | null;
  /** What the camera says it shot at, where that is not what the file plays at. */
  readonly captureRate: Rate | null;
  readonly picture: PictureFacts | null;
  readonly sound: SoundFacts | null;
}

export type FootageStatus = 'preparing' | 'ready' | 'failed';

/** Whether the motion of a piece of footage was looked at: rough spots and the camera's motion are known when it is ready. */
export type MotionStatus = 'waiting' | 'ready' | 'failed';

/** Whether the sound of a piece of footage was listened to: its waveform and beats are known when it is ready. */
export type SoundStatus = 'none' | 'waiting' | 'ready' | 'failed';

/** What listening to a sound found. */
export interface HeardSound extends BeatAnalysis {
  readonly seconds: number;
}

/** When the frames of footage are shown, for browsers that decode its file themselves. */
export interface FrameTimes {
  /** A tick, seconds. */
  readonly timeBase: { readonly num: number; readonly den: number };
  /** Of every frame, in ticks; frames that repeat the one before have its time. */
  readonly times: readonly number[];
  /** Of those decoding may start at, increasing. */
  readonly keys: readonly number[];
}

/** A file that is used where it lies, and what it was when it was taken in. */
export interface FileReference {
  /** The id of a media root, and the path inside it with / between its parts. */
  readonly root: string;
  readonly path: string;
  readonly bytes: number;
  /** Milliseconds since 1970. */
  readonly modifiedMs: number;
}

/** A folder of the server's machine that footage may be taken from. */
export interface MediaRoot {
  readonly id: string;
  readonly name: string;
  /** Whether it can be looked into now: a disk may be away. */
  readonly isHere: boolean;
}

/** What is in a folder of a media root. */
export interface MediaFolder {
  readonly folders: readonly string[];
  readonly files: readonly { readonly name: string; readonly bytes: number; readonly modifiedMs: number }[];
}

/** What a file's headers say of it, for lists; or why they say nothing. */
export type MediaFileFacts =
  | {
      readonly codec: string;
      /** None of sound alone. */
      readonly picture: {
        readonly width: number;
        readonly height: number;
        readonly framesPerSecond: number;
        readonly frames: number;
      } | null;
      readonly seconds: number | null;
    }
  | { readonly problem: string };

export interface Footage {
  readonly id: string;
  readonly name: string;
  readonly status: FootageStatus;
  readonly problem: string | null;
  /** Another one when another file was put behind the footage, or its frames were counted: part of the addresses of what is made of it. */
  readonly revision: string;
  /** Its original is not where it was; what was made of it may still be. */
  readonly missing: boolean;
  /** Where its original lies, when that is no copy of ours: the media root's name and the path inside it. */
  readonly lies: { readonly root: string; readonly path: string } | null;
  /** Its original is there and is not what was taken in. */
  readonly changed: boolean;
  /** Tells its file from others: SHA-256 of its length and of a mebibyte at its beginning, middle and end; none of footage from before that was kept. */
  readonly fingerprint: string | null;
  readonly facts: FootageFacts;
  /** What looking at every picture found; none before that is done. */
  readonly health: Health | null;
  readonly motion: MotionStatus;
  readonly sound: SoundStatus;
}

/** What of the data folder can be dropped: it is made again when it is wanted, or nothing needs it. */
export const DROPPABLE_KINDS = ['proxies', 'motion', 'renders', 'states'] as const;
export type DroppableKind = (typeof DROPPABLE_KINDS)[number];

/** What the data folder holds, bytes. */
export interface DiskUse {
  readonly bytes: {
    /** Films and sounds that are copies; those that lie elsewhere count nothing. */
    readonly originals: number;
    readonly proxies: number;
    /** What was found in footage: sounds, beats, motion, frame lists. */
    readonly found: number;
    /** Motion between frames. */
    readonly motion: number;
    readonly renders: number;
    /** Earlier states of projects. */
    readonly states: number;
    /** What is being sent, and what lies in watched folders. */
    readonly uploads: number;
  };
  readonly freeBytes: number;
}

/** What the server keeps of the motion between frames, so that a changed curve costs only the pictures. */
export interface MotionCache {
  readonly pairs: number;
  readonly bytes: number;
  readonly maxBytes: number;
}

/** `joining`: its parts are put together, its sound is laid under them, and the whole is checked. */
export type RenderStatus = 'queued' | 'running' | 'joining' | 'paused' | 'done' | 'failed' | 'cancelled';

/** How loud a render is, by EBU R 128. */
export interface Loudness {
  /** LUFS, over the whole. */
  readonly integrated: number;
  /** LU. */
  readonly range: number;
  /** The highest true peak, dBTP. */
  readonly peak: number;
}

export interface Render {
  readonly id: string;
  readonly fileName: string;
  readonly settings: RenderSettings;
  /** The frames of the reel it is of. */
  readonly stretch: Stretch;
  readonly status: RenderStatus;
  readonly problem: string | null;
  /** What is worth knowing of how it was made. */
  readonly note: string | null;
  readonly frames: number;
  readonly bytes: number | null;
  /** None before it is done, and where nothing is heard. */
  readonly loudness: Loudness | null;
  readonly createdAt: string;
  readonly done: number;
  readonly secondsLeft: number | null;
  /** Work of a queue on other machines, and none of them is there. */
  readonly waitsForWorker: boolean;
}

/** What a render would ask of this machine. */
export interface RenderEstimate {
  readonly files: number;
  readonly cost: RenderCost;
  /** By how long renders have taken here; none before one has. */
  readonly seconds: number | null;
  /** At most about so much is needed on disk while it is made, and so much is free. */
  readonly maxBytes: number;
  readonly freeBytes: number;
}

/** How the server's machine is. */
export interface ServerState {
  /** What is not as it should be, in sentences that say what to do. */
  readonly problems: readonly string[];
  readonly freeBytes: number;
}

/** What the interface is told as it happens. */
export type ServerEvent =
  | { readonly kind: 'alive' }
  | { readonly kind: 'document'; readonly version: number; readonly by: string }
  | { readonly kind: 'footage' }
  | { readonly kind: 'footage-progress'; readonly footageId: string; readonly done: number; readonly total: number }
  /** While a reel plays or renders, or many files are taken in, what is made ahead stands still. */
  | { readonly kind: 'foreground'; readonly isBusy: boolean }
  /** Looking at the motion of footage that is ready. */
  | { readonly kind: 'motion-progress'; readonly footageId: string; readonly done: number; readonly total: number }
  /** Listening to the sound of footage. */
  | { readonly kind: 'sound-progress'; readonly footageId: string; readonly done: number; readonly total: number }
  | { readonly kind: 'import-failed'; readonly name: string; readonly message: string }
  | { readonly kind: 'renders' }
  | {
      readonly kind: 'render-progress';
      readonly renderId: string;
      readonly done: number;
      readonly total: number;
      readonly secondsLeft: number | null;
    };
