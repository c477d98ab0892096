/** How many lines a project's proxies may have at most; their longer side is 16/9 of that. */
export const PROXY_LINES = [540, 720, 1080] as const;

export type ProxyLines = (typeof PROXY_LINES)[number];

/** What proxies have where nobody says. */
export const USUAL_LINES: ProxyLines = 540;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** The fewest lines that proxies of this size are made at. */
export const linesOf = ({ width, height }: Size): ProxyLines =>
  PROXY_LINES.find((lines) => height <= lines && width <= (lines * 16) / 9) ?? 1080;

/** The size of a source's proxy: square pixels, even, inside 16:9 of so many lines, never larger than the source. */
export function proxySize(
  { width, height, pixelAspect }: Size & { readonly pixelAspect: { readonly num: number; readonly den: number } },
  lines: ProxyLines = USUAL_LINES,
): Size {
  const shownWidth = (width * pixelAspect.num) / pixelAspect.den;
  const scale = Math.min(1, (lines * 16) / 9 / shownWidth, lines / height);
  const even = (x: number) => Math.max(2, Math.round((x * scale) / 2) * 2);
  return { width: even(shownWidth), height: even(height) };
}
