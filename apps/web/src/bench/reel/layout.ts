/** Heights of the reel, in pixels from its top. */
export const RULER = 19;
export const CLIP_TOP = 22;
export const CLIP_BOTTOM = 90;
/** A clip's name stands this high; what it shows lies under it. */
export const HEAD = 18;
/** Pace ticks stand this high at its foot. */
export const FOOT = 18;
/** The line cues and beats stand on. */
export const CUE_Y = 120;
const SOUND_TOP = 130;
export const LANE = 40;
const PLAIN = 136;

/** How high the reel is with so many sounds under it; of more than three the rest is scrolled to. */
export const reelHeight = (sounds: number): number =>
  sounds === 0 ? PLAIN : SOUND_TOP + Math.min(3, sounds) * LANE + 6;
export const laneTop = (lane: number): number => SOUND_TOP + lane * LANE;
