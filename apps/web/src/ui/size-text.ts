/** A size on disk: "3.21 MB", "120 MB", "1.4 GB". */
export const sizeText = (bytes: number): string =>
  bytes < 1e9 ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 2 : 0)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
