import type { ColourTags } from '@idle-bend/core';

/** Whether a picture's brightness is coded for high dynamic range, and how (ITU-R BT.2100). */
export function highRange({ transfer }: ColourTags): 'pq' | 'hlg' | undefined {
  return transfer === 'smpte2084' ? 'pq' : transfer === 'arib-std-b67' ? 'hlg' : undefined;
}

/** The tags of a picture that was tone-mapped. */
export const STANDARD_RANGE: ColourTags = { range: 'limited', matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', chromaLocation: undefined };

/**
 * ffmpeg filters from high dynamic range to BT.709: to linear light with 100 cd/m² as white, to BT.709's primaries, highlights
 * rolled off by a filmic curve, and back. What the file leaves unsaid is taken as BT.2020.
 */
export function toneMapFilters({ matrix, primaries, transfer, range }: ColourTags): string[] {
  const from = `tin=${transfer}:pin=${primaries ?? 'bt2020'}:min=${matrix ?? 'bt2020nc'}:rin=${range ?? 'limited'}`;
  return [`zscale=${from}:t=linear:npl=100`, 'format=gbrpf32le', 'zscale=p=bt709', 'tonemap=hable:desat=0', 'zscale=t=bt709:m=bt709:p=bt709:r=limited'];
}
