/**
 * A decoded picture's 8-bit 4:2:0 codes, plane by plane: luma, then both chroma planes. Decoders in software mostly keep these apart (I420), those
 * in hardware have both chroma samples of a place side by side (NV12); the codes are the same. Throws for formats in which they are not there any more.
 */
export async function copyPlanes(
  picture: Pick<VideoFrame, 'format' | 'copyTo'>,
  width: number,
  height: number,
): Promise<Uint8Array> {
  const across = (width + 1) >> 1;
  const luma = width * height;
  const chroma = across * ((height + 1) >> 1);
  const data = new Uint8Array(luma + 2 * chroma);
  const rect = { x: 0, y: 0, width, height };
  if (picture.format === 'I420') {
    const layout = [
      { offset: 0, stride: width },
      { offset: luma, stride: across },
      { offset: luma + chroma, stride: across },
    ];
    await picture.copyTo(data, { rect, layout });
    return data;
  }
  if (picture.format !== 'NV12')
    throw new Error(`this browser decodes to ${picture.format ?? 'an unknown format'}, which cannot be shown exactly`);
  const packed = new Uint8Array(luma + 2 * chroma);
  await picture.copyTo(packed, {
    rect,
    layout: [
      { offset: 0, stride: width },
      { offset: luma, stride: 2 * across },
    ],
  });
  data.set(packed.subarray(0, luma));
  for (let i = 0; i < chroma; i++) {
    data[luma + i] = packed[luma + 2 * i]!;
    data[luma + chroma + i] = packed[luma + 2 * i + 1]!;
  }
  return data;
}
