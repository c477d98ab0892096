// Sources as editors have them: what is drawn, and how ffmpeg is to code it.
import { open, stat } from 'node:fs/promises';
import { ffmpeg } from './draw.mjs';
import { packed } from './packed.mjs';

export const BT709 = { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'tv' };
export const BT601 = { matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'smpte170m', range: 'tv' };
const FULL709 = { ...BT709, range: 'pc' };
const FULL601 = { ...BT601, range: 'pc' };
const PQ = { matrix: 'bt2020nc', primaries: 'bt2020', transfer: 'smpte2084', range: 'tv' };
const HLG = { ...PQ, transfer: 'arib-std-b67' };
const UNTAGGED = { ...BT601, tags: false };

const x264 = (...more) => ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '8', '-threads', '2', ...more];
const x265 = ['-c:v', 'libx265', '-preset', 'ultrafast', '-crf', '8', '-x265-params', 'log-level=error:bframes=3'];
const aac = ['-c:a', 'aac', '-b:a', '192k'];
const mp3 = ['-c:a', 'libmp3lame', '-b:a', '192k'];
const opus = ['-c:a', 'libopus', '-b:a', '192k'];
const flac = ['-c:a', 'flac'];
const pcm = ['-c:a', 'pcm_s16le'];
const sound = (codec, more = {}) => ({ codec, ...more });

/** Cuts so many bytes off the front, a whole number of transport packets: as if recording began in the middle. */
const cutFront = (share) => async (whole, file) => {
  const { size } = await stat(whole);
  const from = Math.floor((size * share) / 188) * 188;
  const [input, output] = [await open(whole, 'r'), await open(file, 'w')];
  const data = Buffer.alloc(size - from);
  await input.read(data, 0, data.length, from);
  await output.write(data);
  await Promise.all([input.close(), output.close()]);
};
/** Cut by copying, so that an edit list hides what comes before the cut. */
const cutByCopy = (seconds) => (whole, file) => ffmpeg(['-ss', String(seconds), '-i', whole, '-c', 'copy', '-avoid_negative_ts', 'disabled', file]);
/** A camera that turned the phone: the picture is stored lying, and told to be turned. */
const turned = (whole, file) => ffmpeg(['-i', whole, '-c', 'copy', '-metadata:s:v:0', 'rotate=90', file]);

/** The times of a phone whose pictures come when they are ready: on no grid, never two within 20 ms. */
const phone = (n) => n / 30 + 0.006 * Math.sin(n * 1.7) + (n > 40 ? 1 / 30 : 0);

/**
 * `first`: the number of the first picture that can be decoded, where it is not 0. `lossless`: pictures come back as they were drawn.
 * `short`: also looked at in every test run.
 */
export const SOURCES = [
  { name: 'h264-b', file: 'mp4', short: true, frames: 72, rate: [25, 1], colour: BT709, picture: x264('-bf', '3', '-g', '30'), sound: sound(aac) },
  { name: 'h264-open-gop', file: 'mp4', frames: 72, rate: [24000, 1001], colour: BT709, picture: x264('-x264-params', 'open-gop=1:keyint=20:bframes=3'), sound: sound(aac) },
  { name: 'h264-fragments', file: 'mp4', frames: 72, rate: [30000, 1001], colour: BT709, picture: x264(), sound: sound(aac), container: ['-movflags', 'frag_keyframe+empty_moov'] },
  { name: 'h264-edit-list', file: 'mp4', short: true, frames: 96, rate: [24, 1], colour: BT709, picture: x264('-g', '24', '-bf', '2'), sound: sound(aac), after: cutByCopy(0.75), first: 18 },
  { name: 'h264-sound-early', file: 'mov', short: true, frames: 72, rate: [25, 1], colour: BT709, picture: x264(), sound: sound(pcm, { start: -0.3 }) },
  { name: 'h264-sound-late', file: 'mp4', frames: 72, rate: [25, 1], colour: BT709, picture: x264(), sound: sound(aac, { start: 0.25 }) },
  { name: 'h264-sound-short', file: 'mkv', frames: 96, rate: [25, 1], colour: BT709, picture: x264(), sound: sound(flac, { end: 2, sampleRate: 44100, channels: 1 }) },
  { name: 'h264-sound-long', file: 'mov', frames: 48, rate: [25, 1], colour: BT709, picture: x264(), sound: sound(['-c:a', 'pcm_s24le'], { end: 4, sampleRate: 96000 }) },
  { name: 'h264-5.1', file: 'mp4', frames: 72, rate: [25, 1], colour: BT709, picture: x264(), sound: sound(aac, { channels: 6, layout: '5.1' }) },
  { name: 'h264-240', file: 'mp4', frames: 144, rate: [240, 1], colour: BT709, picture: x264(), sound: sound(aac) },
  { name: 'h264-119.88', file: 'mkv', short: true, frames: 144, rate: [120000, 1001], colour: BT709, picture: x264(), sound: sound(mp3) },
  { name: 'h264-59.94', file: 'mkv', frames: 90, rate: [60000, 1001], colour: BT709, picture: x264(), sound: sound(opus) },
  { name: 'h264-23.976', file: 'mkv', frames: 90, rate: [24000, 1001], colour: BT709, picture: x264(), sound: sound(flac) },
  { name: 'h264-full', file: 'mp4', short: true, frames: 48, rate: [30, 1], colour: FULL709, format: 'yuvj420p', picture: x264() },
  { name: 'h264-601', file: 'mp4', short: true, frames: 48, rate: [25, 1], colour: BT601, picture: x264(), sound: sound(aac) },
  { name: 'h264-untagged', file: 'mp4', frames: 48, rate: [25, 1], colour: UNTAGGED, picture: x264() },
  { name: 'h264-untagged-hd', file: 'mp4', short: true, frames: 36, rate: [25, 1], size: [1280, 720], colour: { ...BT709, tags: false }, picture: x264() },
  { name: 'h264-phone', file: 'mp4', frames: 80, rate: [30, 1], times: phone, colour: BT709, picture: x264('-bf', '0'), sound: sound(aac), container: ['-video_track_timescale', '90000'] },
  { name: 'h264-turned', file: 'mp4', frames: 48, rate: [30, 1], colour: BT709, filters: ['transpose=1'], picture: x264(), after: turned },
  { name: 'h264-wide-samples', file: 'mp4', frames: 48, rate: [25, 1], colour: BT601, filters: ['setsar=16/11'], picture: x264() },
  { name: 'h264-gop-600', file: 'mp4', frames: 640, rate: [60, 1], colour: BT709, picture: x264('-x264-params', 'keyint=600:min-keyint=600:scenecut=0'), sound: sound(aac) },
  { name: 'h264-one', file: 'mp4', frames: 1, rate: [25, 1], colour: BT709, picture: x264() },
  { name: 'h264-two', file: 'mp4', frames: 2, rate: [25, 1], colour: BT709, picture: x264() },
  { name: 'ts', file: 'ts', short: true, frames: 96, rate: [25, 1], colour: BT709, picture: x264('-g', '24'), sound: sound(aac) },
  { name: 'ts-26h', file: 'ts', frames: 96, rate: [25, 1], colour: BT709, picture: x264('-g', '24'), sound: sound(['-c:a', 'mp2', '-b:a', '256k']), container: ['-output_ts_offset', '93600'] },
  { name: 'ts-over-the-wrap', file: 'ts', frames: 96, rate: [25, 1], colour: BT709, picture: x264('-g', '24'), sound: sound(aac), container: ['-output_ts_offset', '95441.5'] },
  { name: 'ts-cut', file: 'ts', short: true, frames: 120, rate: [25, 1], colour: BT709, picture: x264('-g', '24', '-x264-params', 'repeat-headers=1:scenecut=0'), sound: sound(aac), after: cutFront(0.3), first: 'key' },
  { name: 'hevc-pq', file: 'mp4', short: true, frames: 48, rate: [24000, 1001], colour: PQ, format: 'yuv420p10le', picture: [...x265, '-tag:v', 'hvc1'], sound: sound(aac) },
  { name: 'hevc-hlg', file: 'mov', frames: 48, rate: [25, 1], colour: HLG, format: 'yuv420p10le', picture: [...x265, '-tag:v', 'hvc1'], sound: sound(pcm) },
  { name: 'vp9', file: 'webm', short: true, frames: 72, rate: [60000, 1001], colour: BT709, picture: ['-c:v', 'libvpx-vp9', '-crf', '8', '-b:v', '0', '-deadline', 'realtime', '-cpu-used', '8'], sound: sound(opus) },
  { name: 'av1', file: 'mp4', frames: 48, rate: [24, 1], colour: BT709, picture: ['-c:v', 'libsvtav1', '-crf', '8', '-preset', '10'], sound: sound(aac) },
  { name: 'prores-422', file: 'mov', short: true, frames: 48, rate: [24000, 1001], colour: BT709, format: 'yuv422p10le', picture: ['-c:v', 'prores_ks', '-profile:v', '3', '-vendor', 'apl0'], container: ['-movflags', 'write_colr'], sound: sound(pcm, { channels: 1 }) },
  { name: 'prores-4444', file: 'mov', frames: 36, rate: [25, 1], colour: BT709, format: 'yuva444p10le', picture: ['-c:v', 'prores_ks', '-profile:v', '4', '-alpha_bits', '16', '-vendor', 'apl0'] },
  { name: 'dnxhd', file: 'mov', frames: 36, rate: [25, 1], colour: BT709, format: 'yuv422p', picture: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hq'], sound: sound(pcm) },
  { name: 'mjpeg', file: 'avi', frames: 48, rate: [15, 1], colour: FULL601, format: 'yuvj422p', picture: ['-c:v', 'mjpeg', '-q:v', '2'], sound: sound(pcm) },
  { name: 'mpeg2-interlaced', file: 'ts', frames: 48, rate: [25, 1], colour: BT601, size: [352, 288], picture: ['-c:v', 'mpeg2video', '-q:v', '2', '-flags', '+ilme+ildct', '-g', '15', '-bf', '2'], sound: sound(['-c:a', 'mp2', '-b:a', '256k']) },
  { name: 'mpeg2-open-gop', file: 'ts', frames: 96, rate: [25, 1], colour: BT709, picture: ['-c:v', 'mpeg2video', '-q:v', '2', '-g', '12', '-bf', '2', '-b_strategy', '0'], sound: sound(['-c:a', 'mp2', '-b:a', '256k']), after: cutFront(0.3), first: 'key' },
  { name: 'mpeg4-b-avi', file: 'avi', short: true, frames: 48, rate: [25, 1], colour: UNTAGGED, picture: ['-c:v', 'mpeg4', '-q:v', '2', '-bf', '2', '-g', '24'], sound: sound(mp3) },
  { name: 'mpeg4-xvid', file: 'avi', frames: 48, rate: [25, 1], colour: UNTAGGED, picture: ['-c:v', 'libxvid', '-q:v', '2', '-bf', '2', '-g', '24'], sound: sound(mp3) },
  { name: 'mpeg4-b-packed', file: 'avi', short: true, frames: 48, rate: [25, 1], colour: UNTAGGED, picture: ['-c:v', 'mpeg4', '-q:v', '2', '-bf', '1', '-b_strategy', '0', '-sc_threshold', '1000000000', '-g', '24'], after: packed([320, 180], [25, 1]) },
  { name: 'png-numbered', file: '%04d.png', short: true, frames: 36, rate: [25, 1], format: 'gbrp', colour: { ...BT709, range: 'pc' }, picture: ['-c:v', 'png'], container: ['-start_number', '3'] },
  { name: 'gif', file: 'gif', frames: 36, rate: [20, 1], colour: { ...BT709, range: 'pc' }, format: 'gbrp', filters: ['split[a][b];[a]palettegen=stats_mode=full[p];[b][p]paletteuse=dither=none'], picture: ['-c:v', 'gif'] },
  { name: 'ffv1-odd', file: 'mkv', short: true, lossless: true, frames: 36, rate: [25, 1], size: [321, 181], colour: BT709, picture: ['-c:v', 'ffv1', '-level', '3'] },
  { name: 'ffv1-full', file: 'mkv', lossless: true, frames: 36, rate: [25, 1], colour: FULL709, picture: ['-c:v', 'ffv1', '-level', '3'], sound: sound(flac) },
  { name: 'ffv1-1x1', file: 'mkv', short: true, lossless: true, frames: 12, rate: [25, 1], size: [1, 1], colour: BT709, picture: ['-c:v', 'ffv1', '-level', '3'] },
  { name: 'ffv1-rgb', file: 'mkv', lossless: true, frames: 24, rate: [30, 1], format: 'gbrp', colour: { ...BT709, range: 'pc' }, picture: ['-c:v', 'ffv1', '-level', '3'] },
  { name: 'h264-8k', file: 'mp4', long: true, frames: 24, rate: [24, 1], size: [7680, 4320], colour: BT709, picture: x264('-preset', 'ultrafast') },
  { name: 'h264-half-an-hour', file: 'mp4', long: true, frames: 43200, rate: [24, 1], size: [128, 72], colour: BT709, picture: x264('-preset', 'ultrafast'), sound: sound(aac) },
].map((source) => ({ size: [320, 180], ...source })); // prettier-ignore
