// `idle-bend retime` over the whole zoo.
import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { checkOutput, frac } from './check.mjs';

const program = fileURLToPath(new URL('../../bin/idle-bend', import.meta.url));
const call = promisify(execFile);
export const idleBend = (args, options = {}) =>
  call(program, args, { env: { ...process.env, NODE_OPTIONS: '' }, maxBuffer: 2 ** 26, ...options }).catch((error) => {
    throw new Error(
      String(error.stderr || error.message)
        .trim()
        .split('\n')
        .pop(),
    );
  });

const ENDINGS = ['mp4', 'webm', 'mov'];

/** Kinds of outputs whose sound is coded with loss. */
const tagsOf = ({ color_space, color_primaries, color_transfer }) => ({
  ...(color_space && color_space !== 'unknown' && { color_space }),
  ...(color_primaries && { color_primaries }),
  ...(color_transfer && { color_transfer }),
});

/** What retime is asked of a source, and what is to come of it. */
function ordersOf(source, read, index) {
  const { rate } = source;
  const rgb = /^gbr|^rgb/.test(source.format ?? '');
  const last = read.numbers.length - 1;
  const numbers = source.times ? undefined : read.numbers;
  const what = (n) => (read.numbers[n] === undefined ? { flash: read.flashes[n] } : read.numbers[n]);
  const common = { rate, patches: read.patches.length > 0 ? read.patches : undefined };
  const tags = rgb || source.colour.tags === false ? {} : { ...tagsOf(read.video), color_range: source.colour.range };
  const same = { ...common, tags, clicks: read.clicks ?? null, ...(source.lossless && { codes: read.codes }) };
  const orders = [{ ending: 'mkv', args: [], wanted: { ...same, pictures: read.numbers.map((_, n) => what(n)) } }];
  const ending = ENDINGS[index % ENDINGS.length];
  // Codecs without a place for such samples change what is stored, not what is seen: patches are compared, codes are not.
  const half = {
    ...common,
    slower: 2,
    clicks: read.clicks?.map((t) => (last / frac(rate) - t) / 0.5) ?? null,
    tags: ending === 'mov' ? {} : tags,
  };
  const count = 2 * last + 1;
  if (source.size[0] > 1)
    orders.push({
      ending,
      args: ['--reverse', '--speed', '50'],
      wanted: {
        ...half,
        codes: undefined,
        patches: common.patches,
        pictures: Array.from({ length: count }, (_, k) => what(Math.floor(last - k / 2 + 1e-6))),
      },
    });
  return numbers ? orders : [];
}

/** Rows of the table: [what, problems]. */
export async function retimeSource(source, read, index, folder) {
  const rows = [];
  for (const { ending, args, wanted } of ordersOf(source, read, index)) {
    const out = join(folder, `out-${source.name}${args.length > 0 ? '-backward' : ''}.${ending}`);
    const what = `retime ${source.name} ${args.join(' ')} → ${ending}`;
    try {
      // Numbered pictures have no rate of their own.
      const rate = source.file.includes('%') ? ['--read-as', source.rate.join('/')] : [];
      await idleBend(['retime', read.file, '-o', out, ...args, ...rate]);
      rows.push([what, await checkOutput(out, wanted)]);
    } catch (error) {
      rows.push([what, [error.message.slice(0, 200)]]);
    }
  }
  return rows;
}
