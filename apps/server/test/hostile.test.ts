import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-hostile-'));
const at = (name: string) => join(folder, name);
const ffmpeg = (...args: string[]) => {
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
};

let server: RunningServer;
let project: string;
let good: Buffer;
let streamable: Buffer;
let matroska: Buffer;
let wav: Buffer;
beforeAll(async () => {
  server = await RunningServer.start();
  project = (await server.newProject()).id;
  const clip = await makeNumberedClip({ file: at('good.mp4'), frames: 90, rate: '30', options: H264 });
  good = readFileSync(clip);
  ffmpeg('-i', clip, '-c', 'copy', '-movflags', '+faststart', at('streamable.mp4'));
  streamable = readFileSync(at('streamable.mp4'));
  ffmpeg('-i', clip, '-c', 'copy', at('good.mkv'));
  matroska = readFileSync(at('good.mkv'));
  ffmpeg('-f', 'lavfi', '-i', 'sine=duration=1', at('good.wav'));
  wav = readFileSync(at('good.wav'));
  ffmpeg('-i', clip, '-frames:v', '1', at('picture.jpg'));
  writeFileSync(at('lines.srt'), '1\n00:00:00,000 --> 00:00:02,000\nthe marble rolls\n');
  ffmpeg('-i', at('lines.srt'), '-c:s', 'mov_text', at('words.mp4'));
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const text = (content: string) => () => Buffer.from(content);
const replaced = (buffer: Buffer, from: string, to: string) =>
  Buffer.from(buffer.toString('latin1').replaceAll(from, to), 'latin1');
/** The media data of an MP4 overwritten, its index whole. */
const scrambled = (buffer: Buffer) => {
  const copy = Buffer.from(buffer);
  const start = copy.indexOf('mdat') + 4;
  for (let i = start; i < copy.length; i++) copy[i] = (i * 151 + 7) & 255;
  return copy;
};

const SECRET = 'https://marbles.example/secret.mp4';
const NOT_FOOTAGE = 'is a playlist, script, picture or text, not footage; import the video file itself.';
const UNREADABLE = 'is not a video or sound file that can be read; it may be damaged or of another kind.';

describe('refused in a sentence, and nothing is left behind', () => {
  test.each<[string, () => Buffer, string]>([
    ['nothing.mp4', text(''), 'nothing.mp4 is empty.'],
    ['letter.mp4', text('Dear editor, the marbles are in the post.\n'.repeat(40)), `letter.mp4 ${UNREADABLE}`],
    ['page.mp4', text('<!doctype html><html><body><script>alert(1)</script></body></html>'), `page.mp4 ${UNREADABLE}`],
    [
      'drawing.svg',
      text('<svg xmlns="http://www.w3.org/2000/svg"><image href="file:///etc/passwd"/></svg>'),
      `drawing.svg ${UNREADABLE}`,
    ],
    [
      'drawing.mp4',
      text('<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'),
      `drawing.mp4 ${UNREADABLE}`,
    ],
    [
      'list.m3u8',
      text(`#EXTM3U\n#EXT-X-TARGETDURATION:4\n#EXTINF:4,\n${SECRET}\n#EXT-X-ENDLIST\n`),
      `list.m3u8 ${NOT_FOOTAGE}`,
    ],
    [
      'list.mp4',
      text('#EXTM3U\n#EXT-X-TARGETDURATION:4\n#EXTINF:4,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n'),
      `list.mp4 ${NOT_FOOTAGE}`,
    ],
    ['joined.mp4', text("ffconcat version 1.0\nfile '/etc/passwd'\n"), `joined.mp4 ${NOT_FOOTAGE}`],
    [
      'manifest.mpd',
      text(`<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011"><BaseURL>${SECRET}</BaseURL></MPD>`),
      `manifest.mpd ${UNREADABLE}`,
    ],
    [
      'call.sdp',
      text(
        'v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=video 5004 RTP/AVP 96\na=rtpmap:96 H264/90000\n',
      ),
      `call.sdp ${NOT_FOOTAGE}`,
    ],
    ['show.asx', text(`<asx version="3.0"><entry><ref href="${SECRET}"/></entry></asx>`), `show.asx ${UNREADABLE}`],
    ['lines.srt', () => readFileSync(at('lines.srt')), `lines.srt ${NOT_FOOTAGE}`],
    ['picture.mp4', () => readFileSync(at('picture.jpg')), `picture.mp4 ${NOT_FOOTAGE}`],
    ['bundle.zip', text(`PK\u0003\u0004${'\u0000'.repeat(400)}`), `bundle.zip ${UNREADABLE}`],
    [
      'noise.mov',
      () => Buffer.from(Array.from({ length: 70_000 }, (_, i) => (i * i * 31 + i * 7) & 255)),
      `noise.mov ${UNREADABLE}`,
    ],
    [
      'no-index.mp4',
      () => good.subarray(0, good.length - 4000),
      'no-index.mp4 is cut short: its index is missing, so it cannot be read; copy it again from the camera.',
    ],
    [
      'half.mp4',
      () => streamable.subarray(0, streamable.length / 2),
      'half.mp4 is cut short: it promises 3.0 s but its data ends after 0.9 s; copy it again.',
    ],
    [
      'half.mkv',
      () => matroska.subarray(0, matroska.length / 2),
      'half.mkv is cut short: it promises 3.0 s but its data ends after 1.0 s; copy it again.',
    ],
    [
      'head.mp4',
      () => streamable.subarray(0, streamable.indexOf('mdat') + 20),
      'head.mp4: its picture cannot be decoded; the file may be cut short or damaged.',
    ],
    [
      'scrambled.mp4',
      () => scrambled(streamable),
      'scrambled.mp4: its picture cannot be decoded; the file may be cut short or damaged.',
    ],
    [
      'other-codec.mp4',
      () => replaced(good, 'avc1', 'zzq9'),
      'other-codec.mp4: its picture is coded in a way this machine cannot decode.',
    ],
    ['words.mp4', () => readFileSync(at('words.mp4')), 'words.mp4 holds neither picture nor sound.'],
    ['vast.y4m', text(`YUV4MPEG2 W60000 H60000 F25:1 C420\nFRAME\n${'x'.repeat(5000)}`), `vast.y4m ${UNREADABLE}`],
    ['nowhere.y4m', text('YUV4MPEG2 W0 H0 F25:1 C420\nFRAME\n'), `nowhere.y4m ${UNREADABLE}`],
    [
      'vast.gif',
      () => Buffer.from('474946383961ffffffff800000000000ffffff2c00000000ffffffff0002024401003b', 'hex'),
      'vast.gif: its picture has no size; the file may be cut short.',
    ],
    ['no-data.wav', () => wav.subarray(0, 44), `no-data.wav ${UNREADABLE}`],
  ])('%s', async (name, content, sentence) => {
    writeFileSync(at('it'), content());
    const answer = await server.upload(project, at('it'), name);
    expect(answer.text).toBe(sentence);
    expect(answer.text).not.toMatch(/idle-bend-|\/tmp|\/api/);
    expect(answer.status).toBe(422);
    expect(await server.footage(project)).toEqual([]);
    expect(readdirSync(join(server.data, 'media'))).toEqual([]);
    expect(readdirSync(join(server.data, 'uploads'))).toEqual([]);
  });

  test('an upload for nobody, without a name, or larger than the largest', async () => {
    expect(await server.upload('nobody', at('good.mp4'))).toMatchObject({
      status: 404,
      text: expect.stringMatching(/no such project/),
    });
    const send = (headers: Record<string, string>) =>
      fetch(`${server.url}/api/uploads`, { method: 'POST', headers: { 'Tus-Resumable': '1.0.0', ...headers } });
    expect((await send({ 'Upload-Length': '5' })).status).toBe(422);
    expect(
      (await send({ 'Upload-Length': String(2 ** 42), 'Upload-Metadata': 'projectId eA==,filename eA==' })).status,
    ).toBe(413);
    expect(readdirSync(join(server.data, 'uploads'))).toEqual([]);
  });

  test('a link in the watched folder is not followed', async () => {
    const watched = join(server.data, 'watched', project);
    symlinkSync(at('good.mp4'), join(watched, 'link.mp4'));
    writeFileSync(join(watched, 'real.mp4'), good);
    await server.until(
      () => server.footage(project),
      (all) => all.some((f) => f.name === 'real.mp4'),
    );
    expect((await server.footage(project)).map((f) => f.name)).toEqual(['real.mp4']);
    expect(existsSync(at('good.mp4'))).toBe(true);
  });
});
