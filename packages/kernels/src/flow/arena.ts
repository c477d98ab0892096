const PAGE = 65536;

/** Hands out stretches of one WebAssembly memory, one after another; everything is given back at once. */
export class Arena {
  static readonly FIRST = PAGE;
  readonly memory = new WebAssembly.Memory({ initial: 1, maximum: 32768 });
  private next = PAGE;

  /** The address of `bytes` fresh bytes, aligned to 16. Their content is whatever was there. Views taken before may go stale. */
  take(bytes: number): number {
    const address = this.next;
    this.next += (bytes + 15) & ~15;
    // A little beyond, for kernels that read a vector past the end.
    const missing = this.next + 256 - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return address;
  }

  /** Gives back everything taken since `mark` was taken with `mark()`. */
  release(mark: number): void {
    this.next = mark;
  }

  mark(): number {
    return this.next;
  }
}
