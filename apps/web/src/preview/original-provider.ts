import type { Frame, FrameFormat } from '@idle-bend/core/frame';
import type { FrameProvider } from '@idle-bend/pipeline';

const CACHE_BYTES = 96 * 2 ** 20;

/** An original's frames by number as its proxy will have them, made by the server one by one: what there is to look at before there is a proxy. */
export class OriginalProvider implements FrameProvider {
  /** Pictures, the one used last at the end. */
  private readonly kept = new Map<number, Promise<Frame>>();
  private readonly most: number;

  private constructor(
    private readonly url: string,
    readonly format: FrameFormat,
    readonly frameCount: number,
  ) {
    this.most = Math.max(8, Math.floor(CACHE_BYTES / (format.width * format.height * 1.5)));
  }

  static async open(url: string, frameCount: number): Promise<OriginalProvider> {
    const { format } = await fetchPicture(url, 0);
    return new OriginalProvider(url, format, frameCount);
  }

  frames(wanted: readonly number[]): Promise<readonly Frame[]> {
    return Promise.all(wanted.map((n) => this.picture(n)));
  }

  /** The server makes one after another, so that what may be wanted would only stand in the way of what is. */
  prefetch(): void {}

  private picture(n: number): Promise<Frame> {
    const picture = this.kept.get(n) ?? fetchPicture(this.url, n);
    this.kept.delete(n);
    this.kept.set(n, picture);
    picture.catch(() => this.kept.delete(n));
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= this.most) break;
      this.kept.delete(oldest);
    }
    return picture;
  }
}

async function fetchPicture(url: string, frame: number): Promise<Frame> {
  const response = await fetch(`${url}/${frame}`);
  if (!response.ok) {
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    throw new Error(message ?? `frame ${frame} could not be fetched`);
  }
  const format = JSON.parse(response.headers.get('X-Frame-Format')!) as FrameFormat;
  return { format, data: new Uint8Array(await response.arrayBuffer()) };
}
