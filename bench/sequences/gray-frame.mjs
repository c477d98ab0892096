import { NO_COLOUR_TAGS, parsePixelFormat } from '@idle-bend/core/frame';

/** A luma plane as a frame. */
export const grayFrame = (data, width, height) => ({
  data,
  format: {
    ...{ width, height, layout: parsePixelFormat('gray') },
    ...{ colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } },
  },
});
