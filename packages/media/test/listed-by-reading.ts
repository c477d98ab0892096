import { execFileSync } from 'node:child_process';

/** What ffprobe lists of a file's picture by reading all of it: time, key frame, size; in order of presentation. */
export function listedByReading(file: string, stream: number) {
  const rows = execFileSync('ffprobe', [
    ...['-v', 'error', '-select_streams', String(stream), '-show_entries', 'packet=pts,size,flags', '-of', 'csv=p=0'],
    file,
  ]);
  return rows
    .toString()
    .trim()
    .split('\n')
    .map((row) => row.split(','))
    .filter(([, , flags]) => !flags!.includes('D'))
    .map(([pts, bytes, flags]) => ({ pts: Number(pts), key: flags!.includes('K'), bytes: Number(bytes) }))
    .sort((a, b) => a.pts - b.pts);
}
