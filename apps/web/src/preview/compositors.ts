import { spaceIn, tagsOf } from '@idle-bend/core/colour';
import { blackFrame, parsePixelFormat, type FrameFormat } from '@idle-bend/core/frame';
import type { Kernels } from '@idle-bend/kernels';
import { ReelCompositor, type CompositorMeans, type PictureMaker } from '@idle-bend/pipeline';
import type { Films } from './films.ts';
import type { FrameCache } from './frame-cache.ts';
import type { PreviewClip } from './messages.ts';

const LAYOUT = parsePixelFormat('yuv420p')!;

/** The reel's compositor over proxies. A new one is made when the size or the colours of the picture change. */
export class Compositors {
  private format = '';
  private readonly known = new Map<boolean, ReelCompositor>();
  private clip: PreviewClip | undefined;

  constructor(
    private readonly kernels: Promise<Kernels>,
    private readonly films: Films,
    private readonly madeFrames: FrameCache,
  ) {}

  /** @param afresh frames that were made ahead are not taken: they are of another level */
  async of(clip: PreviewClip, afresh = false): Promise<ReelCompositor> {
    this.clip = clip;
    const { size, space } = clip;
    const key = JSON.stringify([size, space]);
    if (key !== this.format) this.known.clear();
    this.format = key;
    let compositor = this.known.get(afresh);
    if (!compositor) {
      const format: FrameFormat = {
        ...size,
        layout: LAYOUT,
        colour: tagsOf(spaceIn(space, LAYOUT)),
        pixelAspect: { num: 1, den: 1 },
      };
      const black = blackFrame(format);
      const means: CompositorMeans = {
        kernels: await this.kernels,
        composer: async (_, { id }) => (await this.composer(id, afresh)) ?? { compose: () => Promise.resolve(black) },
      };
      this.known.set(afresh, (compositor = new ReelCompositor(format, means)));
    }
    return compositor;
  }

  /** Nothing of footage that is not prepared yet, which only a clip beside the one in sight can be of. */
  private async composer(sourceId: string, afresh: boolean): Promise<PictureMaker | undefined> {
    const film = this.clip?.films[sourceId];
    if (!film) return undefined;
    const { key, provider, composer } = await this.films.of(film);
    return {
      compose: async (sample, level) => {
        const kept = afresh ? undefined : this.madeFrames.get(key, sample);
        return kept ? { format: provider.format, data: kept } : composer.compose(sample, level);
      },
    };
  }
}
