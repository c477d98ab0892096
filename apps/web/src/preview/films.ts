import { conversionOf, type ColourSpace } from '@idle-bend/core/colour';
import { Converter, Exposure, Flow, type Kernels } from '@idle-bend/kernels';
import { ConvertedProvider, FrameComposer, type FlowMeans, type FrameProvider, type Level } from '@idle-bend/pipeline';
import type { Origin, PreviewFilm } from './messages.ts';
import { ArrivingProvider } from './arriving-provider.ts';
import { ProxyProvider } from './proxy-provider.ts';

/** Where pictures of footage come from. */
type FilmProvider = ProxyProvider | ArrivingProvider;

/** Footage that is open, and what makes frames of it. */
export interface OpenFilm {
  /** Tells its pictures from others: the address, and the colour space they are in. */
  readonly key: string;
  readonly provider: FrameProvider;
  readonly composer: FrameComposer;
}

/** As many composers are kept: of a group, the clips on either side of its cuts. */
const MAX_COMPOSERS = 4;
/** Motion kept of one film while its clip is bent; a pair of a 640 × 360 proxy takes 1.3 MiB. */
const MOTION_BYTES = 128 * 2 ** 20;

/** Footage by address, opened once each, and composers for those used last. */
export class Films {
  private readonly providers = new Map<string, Promise<FilmProvider>>();
  private readonly open = new Map<string, OpenFilm>();

  constructor(
    private readonly compiled: Promise<WebAssembly.Module>,
    private readonly kernels: Promise<Kernels>,
    private readonly pair: FlowMeans['pair'],
    private readonly level: Level,
  ) {}

  provider({ isWhole, url, revision, frames, framesPerSecond }: PreviewFilm): Promise<FilmProvider> {
    const key = `${url} ${revision}`;
    let provider = this.providers.get(key);
    if (!provider) {
      if (isWhole) this.closeArriving(url);
      provider = isWhole
        ? ProxyProvider.open(url, frames, framesPerSecond)
        : this.kernels.then((kernels) => ArrivingProvider.open(url, revision, frames, framesPerSecond, kernels));
      provider.catch(() => this.providers.delete(key));
      this.providers.set(key, provider);
    }
    return provider;
  }

  /** Its proxy is whole now: what was read and kept of the original goes. */
  private closeArriving(proxy: string): void {
    for (const [key, provider] of this.providers) {
      const [footage] = key.split(' ');
      if (!proxy.startsWith(`${footage}/`)) continue;
      this.providers.delete(key);
      void provider.then((known) => known instanceof ArrivingProvider && known.close()).catch(() => undefined);
    }
  }

  async of(film: PreviewFilm): Promise<OpenFilm> {
    const key = `${film.url} ${film.revision} ${JSON.stringify(film.space)}`;
    const proxy = await this.provider(film);
    let open = this.open.get(key);
    if (open) this.open.delete(key);
    else {
      const provider = await this.converted(proxy, film.space);
      const means = {
        flow: new Flow(await this.compiled),
        exposure: new Exposure(await this.compiled),
        pair: this.pair,
        level: this.level,
        cacheBytes: MOTION_BYTES,
      };
      open = { key, provider, composer: new FrameComposer(await this.kernels, provider, means) };
    }
    this.open.set(key, open);
    for (const old of this.open.keys()) {
      if (this.open.size <= MAX_COMPOSERS) break;
      this.open.delete(old);
    }
    return open;
  }

  private converter: Converter | undefined;

  /** Its pictures in the reel's colour space, by the kernel renders use. */
  private async converted(proxy: FilmProvider, space: ColourSpace): Promise<FrameProvider> {
    const conversion = conversionOf(proxy.format, { space, layout: proxy.format.layout });
    if (!conversion) return proxy;
    this.converter ??= new Converter(await this.compiled);
    return new ConvertedProvider(proxy, { conversion }, this.converter);
  }

  /** Where frames of a film that were shown came from; of several, the one that takes longest. */
  async originOf(film: PreviewFilm, frames: readonly number[]): Promise<Origin> {
    const provider = await this.provider(film);
    if (!(provider instanceof ArrivingProvider)) return 'proxy';
    const origins = frames.map((frame) => provider.originOf(frame));
    return (['server', 'original'] as const).find((origin) => origins.includes(origin)) ?? 'proxy';
  }

  /** Decodes frames that will be wanted soon, without waiting for them. */
  prefetch(film: PreviewFilm, frames: readonly number[]): void {
    void this.provider(film).then(
      (provider) => frames.forEach((frame) => provider.prefetch(frame)),
      () => undefined,
    );
  }
}
