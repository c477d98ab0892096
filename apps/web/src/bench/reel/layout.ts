/** Heights of the reel, in pixels from its top. */
export const RULER = 19;
export const CLIP_TOP = 22;
export const CLIP_BOTTOM = 82;
/** The line cues and beats stand on. */
export const CUE_Y = 112;
const SOUND_TOP = 122;
export const LANE = 40;
const PLAIN = 128;

/** How high the reel is with so many sounds under it; of more than three the rest is scrolled to. */
export const reelHeight = (sounds: number): number =>
  sounds === 0 ? PLAIN : SOUND_TOP + Math.min(3, sounds) * LANE + 6;
export const laneTop = (lane: number): number => SOUND_TOP + lane * LANE;
