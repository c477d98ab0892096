/** The number of a frame, in four digits at least. */
export const four = (frame: number): string => String(frame).padStart(4, '0');
