import type { BeatSection } from '@idle-bend/core/beats';
import { Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';

/** Tempo and how sure the beats are, over the sound: the tempo as a line over its own range, sureness from 0 to 1. Here is a second of the file. */
export default function SurenessChart({
  sections,
  here,
}: {
  readonly sections: readonly BeatSection[];
  readonly here: number;
}) {
  const end = sections.at(-1)!.to;
  const points = sections.flatMap(({ from, to, tempo, confidence }) =>
    [from, to].map((second) => ({ second, tempo, sure: confidence.tempo * confidence.phase })),
  );
  const tempi = sections.map(({ tempo }) => tempo);
  // Whole numbers at both ends and in the middle.
  const low = Math.floor(Math.min(...tempi) - 2);
  const high = low + 2 * Math.ceil((Math.max(...tempi) + 2 - low) / 2);
  const tick = { fontSize: 10, fill: 'var(--faint)' };
  return (
    <ResponsiveContainer width="100%" height={84}>
      <LineChart data={points} margin={{ top: 6, right: 0, bottom: 0, left: 0 }}>
        <XAxis
          dataKey="second"
          type="number"
          domain={[0, end]}
          tick={tick}
          tickLine={false}
          axisLine={{ stroke: 'var(--line)' }}
          tickCount={5}
          tickFormatter={(second: number) =>
            `${Math.floor(second / 60)}:${String(Math.round(second % 60)).padStart(2, '0')}`
          }
          height={16}
        />
        <YAxis
          yAxisId="tempo"
          domain={[low, high]}
          tick={tick}
          tickLine={false}
          axisLine={false}
          width={28}
          ticks={[low, (low + high) / 2, high]}
        />
        <YAxis
          yAxisId="sure"
          orientation="right"
          domain={[0, 1]}
          ticks={[0, 0.5, 1]}
          tick={tick}
          tickLine={false}
          axisLine={false}
          width={24}
        />
        <Line
          yAxisId="sure"
          dataKey="sure"
          type="linear"
          stroke="var(--brass)"
          strokeWidth={1.5}
          dot={false}
          isAnimationActive={false}
        />
        <Line
          yAxisId="tempo"
          dataKey="tempo"
          type="linear"
          stroke="var(--river)"
          strokeWidth={1.5}
          dot={false}
          isAnimationActive={false}
        />
        <ReferenceLine yAxisId="sure" x={Math.max(0, Math.min(end, here))} stroke="var(--vermilion)" />
      </LineChart>
    </ResponsiveContainer>
  );
}
