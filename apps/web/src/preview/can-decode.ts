/** Whether this browser decodes video for a page: some never do, others not for pages that came over a plain network. */
export const canDecode = (): boolean => 'VideoDecoder' in globalThis;
