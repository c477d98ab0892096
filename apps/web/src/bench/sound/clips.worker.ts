import type { Project } from '@idle-bend/core/model';
import { inMemory, ReelSound, type Stereo } from '@idle-bend/pipeline';

/** The thread that makes what is heard of the clips, by what renders make it with. */

export type ToClips =
  | { readonly kind: 'project'; readonly project: Project }
  /** The sound behind a source. */
  | { readonly kind: 'source'; readonly id: string; readonly left: Float32Array; readonly right: Float32Array }
  | { readonly kind: 'read'; readonly request: number; readonly from: number; readonly count: number };

export interface FromClips {
  readonly request: number;
  readonly left: Float32Array<ArrayBuffer>;
  readonly right: Float32Array<ArrayBuffer>;
}

const sources = new Map<string, Stereo>();
let project: Project | undefined;
let sound: ReelSound | undefined;

function soundNow(of: Project): ReelSound {
  sound ??= new ReelSound(of, ({ id }) => {
    const held = sources.get(id);
    return Promise.resolve(held && inMemory(held));
  });
  return sound;
}

addEventListener('message', ({ data }: MessageEvent<ToClips>) => {
  if (data.kind === 'read') return void answer(data);
  if (data.kind === 'source') sources.set(data.id, [data.left, data.right]);
  else project = data.project;
  // What was made of it before is of another sound.
  sound = undefined;
});

async function answer({ request, from, count }: Extract<ToClips, { kind: 'read' }>): Promise<void> {
  const silent = (): Stereo => [new Float32Array(count), new Float32Array(count)];
  const [left, right] = (
    project ? await soundNow(project).read(from, count).catch(silent) : silent()
  ) as readonly Float32Array<ArrayBuffer>[];
  postMessage({ request, left: left!, right: right! } satisfies FromClips, { transfer: [left!.buffer, right!.buffer] });
}
