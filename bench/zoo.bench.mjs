import { runZoo } from './zoo/zoo.mjs';

export const about =
  'sources as editors have them, through retime, renders and the preview, looked at with ffmpeg alone';

export async function run() {
  const rows = await runZoo({ short: false, onRow: ([what]) => process.stderr.write(`  ${what}\n`) });
  return rows.map(([what, problems]) => ({
    what,
    value: problems.length === 0 ? 'ok' : problems.join('; '),
    limit: 'nothing an outsider finds wrong',
    holds: problems.length === 0,
  }));
}
