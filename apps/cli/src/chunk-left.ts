/** A chunk this worker cannot make, and others can: it is left to them. The message says why. */
export class ChunkLeft extends Error {}
