import { crossingsOf } from '@idle-bend/core/accent';
import { insideGroup } from '@idle-bend/core/group';
import { isGroup, type Clip, type Project, type Source } from '@idle-bend/core/model';
import { placeItems, reelFrames, sourceOf } from '@idle-bend/core/reel';
import { SOUND_RATE, soundPath, whooshSound } from '@idle-bend/core/sound';
import { framesPerSecond } from '@idle-bend/core/time';
import { ClipVoice, VOICE_BLOCK } from './clip-voice.js';
import { inMemory, silence, type SoundProvider, type Stereo } from './sound-provider.js';

/** The sound of footage; undefined for silent footage. */
export type OpenSound = (source: Source) => Promise<SoundProvider | undefined>;

interface Voice {
  /** The sample of the reel it begins at. */
  readonly start: number;
  readonly length: number;
  addBlock(n: number, out: Stereo, at: number): Promise<void>;
}

/**
 * What is heard of the clips themselves: their own sounds along their curves, and the whooshes of joins. Music and effects lie
 * beside it. Any stretch of it can be asked for; going on where one ended is quickest.
 */
export class ReelSound {
  private readonly voices: Promise<readonly Voice[]>;

  constructor(
    private readonly project: Project,
    open: OpenSound,
  ) {
    this.voices = voicesOf(project, open);
    this.voices.catch(() => undefined);
  }

  /** Samples of the whole reel. */
  get length(): number {
    return samplesOf(this.project, reelFrames(this.project));
  }

  /** Whether anything is heard at all. */
  async isSilent(): Promise<boolean> {
    return (await this.voices).length === 0;
  }

  /** Samples `from` … `from + count − 1` of the reel. */
  async read(from: number, count: number): Promise<Stereo> {
    const out = silence(count);
    for (const voice of await this.voices) {
      if (voice.start >= from + count || voice.start + voice.length <= from) continue;
      const first = Math.max(0, Math.floor((from - voice.start) / VOICE_BLOCK));
      const last = Math.floor((Math.min(from + count, voice.start + voice.length) - 1 - voice.start) / VOICE_BLOCK);
      for (let n = first; n <= last; n++) await voice.addBlock(n, out, voice.start + n * VOICE_BLOCK - from);
    }
    return out;
  }
}

const samplesOf = ({ reel }: Project, frame: number) => Math.round((frame / framesPerSecond(reel.rate)) * SOUND_RATE);

async function voicesOf(project: Project, open: OpenSound): Promise<Voice[]> {
  const voices: Voice[] = [];
  const crossings = crossingsOf(project);
  for (const { item, start, frames } of placeItems(project)) {
    if (item.kind !== 'clip' || isMute(item)) continue;
    const source = sourceOf(project, item);
    const provider = isGroup(source) ? groupSound(project, source, open) : await open(source);
    if (!provider) continue;
    const crossing = crossings.get(item.id);
    const voice = new ClipVoice(soundPath(project, item, frames, crossing), provider);
    voices.push({
      start: samplesOf(project, start - (crossing?.before ?? 0)),
      length: voice.length,
      addBlock: (n, out, at) => voice.addBlock(n, out, at),
    });
  }
  for (const join of project.reel.joins) {
    const whoosh = whooshSound(project, join);
    if (whoosh) voices.push(heldVoice(whoosh.start, [whoosh.left, whoosh.right]));
  }
  return voices;
}

const isMute = ({ sound }: Clip) => sound.mode === 'mute' && sound.reaches.every(({ mode }) => mode === 'mute');

/** A sound that was made as a whole. */
function heldVoice(start: number, sound: Stereo): Voice {
  const addBlock = (n: number, out: Stereo, at: number) => {
    const end = Math.min((n + 1) * VOICE_BLOCK, sound[0].length);
    for (let i = n * VOICE_BLOCK; i < end; i++) {
      const to = at + i - n * VOICE_BLOCK;
      if (to < 0 || to >= out[0].length) continue;
      out[0][to]! += sound[0][i]!;
      out[1][to]! += sound[1][i]!;
    }
    return Promise.resolve();
  };
  return { start, length: sound[0].length, addBlock };
}

/** What is heard of a group is what is heard of the reel inside it: made when it is first wanted, and kept. */
function groupSound(project: Project, source: Source, open: OpenSound): SoundProvider {
  let whole: Promise<SoundProvider> | undefined;
  const make = async () => {
    const inside = new ReelSound(insideGroup(project, source.id), open);
    return inMemory(await inside.read(0, inside.length));
  };
  return { read: async (from, count) => (await (whole ??= make())).read(from, count) };
}
