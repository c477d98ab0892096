import { InvalidInput } from '@idle-bend/core/foundation';
import { footageOf } from '@idle-bend/core/group';
import { layClips, type LayPlan } from '@idle-bend/core/lay';
import { markFound } from '@idle-bend/core/landing';
import type { Sound, Source } from '@idle-bend/core/model';
import { parseSpeed, percentText } from '@idle-bend/core/time';
import { Music, Minus, Plus, X } from 'lucide-react';
import { useMemo } from 'react';
import { waitForCount } from '../../footage/estimates.ts';
import { tell } from '../../session/notices.ts';
import { benchClipsToLay, layChoice, useLay, usePlan } from './plan.ts';
import { useFootage } from '../motion.ts';
import { useAllHeard, useHeard } from '../sound/use-sounds.ts';
import { Choice } from '../../ui/choice.tsx';
import { Note, Panel } from '../../ui/panel.tsx';
import { TypedField } from '../../ui/typed-field.tsx';
import { edit } from '../../session/session.ts';
import { activate, select, speedMeasure, type BenchClip } from '../../session/bench-state.ts';
import { newId } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';
import { Check } from '../../ui/check.tsx';

const EACH = [
  {
    value: 'choose',
    text: 'It chooses',
    title: 'From one beat to four bars, by what the clips and their moments bear',
  },
  { value: '2', text: '2 beats' },
  { value: '4', text: '4 beats' },
  { value: 'bar', text: 'A bar' },
  { value: 'bars', text: '2 bars' },
] as const;

/** Clips laid on the music: a plan to look at, each clip as it is or decided by hand, taken as one edit. */
export function LayPanel({ bench }: { bench: BenchClip }) {
  const sound = bench.project.reel.sounds.find(({ beats }) => beats && beats.times.length > 1);
  const close = (
    <button className="button px-1.5" aria-label="Close" onClick={() => select({ kind: 'clip' })}>
      <X size={15} aria-hidden />
    </button>
  );
  return (
    <Panel title="Lay it on the music" action={close}>
      {sound ? (
        <Plan bench={bench} sound={sound} />
      ) : (
        <Note>There is no music with beats under the reel. Lay some there from the footage room.</Note>
      )}
    </Panel>
  );
}

function Plan({ bench, sound }: { bench: BenchClip; sound: Sound }) {
  const state = useLay();
  const heard = useHeard(sound.footageId);
  const picked = useBench((s) => s.picked);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- what is picked decides which clips
  const clips = useMemo(() => benchClipsToLay(bench), [bench, picked]);
  const choice = useMemo(() => layChoice(sound, heard, state), [sound, heard, state]);
  const footage = useFootage();
  // What was heard in the clips tells hits too.
  const heardInClips = useAllHeard(clips.map(({ clip }) => clip.sourceId));
  const found = useMemo(
    () => (sourceId: string) => {
      const hits = footage?.find(({ id }) => id === sourceId)?.health?.hits;
      return hits && { hits, onsets: heardInClips.get(sourceId)?.onsets ?? [] };
    },
    [footage, heardInClips],
  );
  const clipIds = useMemo(() => clips.map(({ clip }) => clip.id), [clips]);
  const marked = useMemo(() => markFound(bench.project, clipIds, found), [bench.project, clipIds, found]);
  const asked = state.marks ? marked : bench.project;
  const unmarked = marked.sources.filter((source, i) => source !== bench.project.sources[i]).length;
  const { plan, problem, waiting } = usePlan(asked, clips, choice);
  const measure = speedMeasure(bench, 1, 1);
  const take = () => {
    const used = clips.flatMap(({ clip }) => footageOf(bench.project, clip).map(({ id }) => id));
    if (waitForCount(used, 'they can be laid')) return;
    let laid: ReturnType<typeof layClips> | undefined;
    edit((project) => {
      const withMoments = state.marks ? markFound(project, clipIds, found) : project;
      laid = layClips(withMoments, plan!, choice, () => newId('cue'));
      return laid.project;
    });
    useLay.setState({ kept: {} });
    select({ kind: 'clip' });
    const named = (ids: readonly string[]) =>
      ids.map((id) => clips.find(({ clip }) => clip.id === id)?.clip.name).join(', ');
    const { missed = [], unjoined = [] } = laid ?? {};
    const told = [
      ...(missed.length > 0 ? [`the moments of ${named(missed)} could not all be landed there`] : []),
      ...(unjoined.length > 0 ? [`the ramp join of ${named(unjoined)} does not go into its slot`] : []),
    ];
    if (told.length > 0) tell(`Laid; ${told.join('; ')}.`);
  };
  return (
    <>
      <Choice
        label="Each clip"
        value={state.each}
        options={EACH}
        choose={(each) => useLay.setState({ each, kept: {} })}
      />
      <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-3">
        <TypedField
          label="No slower than"
          text={percentText(state.slowest)}
          commit={(t) => useLay.setState({ slowest: checked(parseSpeed(t, measure)) })}
        />
        <TypedField
          label="No faster than"
          text={percentText(state.fastest)}
          commit={(t) => useLay.setState({ fastest: checked(parseSpeed(t, measure)) })}
        />
        <Check
          label="Cuts on bars"
          className="pb-1.5"
          checked={state.onBars}
          set={(onBars) => useLay.setState({ onBars })}
        />
      </div>
      {unmarked > 0 && (
        <Check
          label={`Mark the likeliest hit of ${unmarked === 1 ? 'the film' : `${unmarked} films`} without a moment`}
          checked={state.marks}
          set={(marks) => useLay.setState({ marks })}
        />
      )}
      {plan ? (
        <>
          <button className="button button-ink self-start" onClick={take} disabled={waiting}>
            <Music size={15} aria-hidden /> Lay{' '}
            {plan.clips.length === 1 ? 'this clip' : `these ${plan.clips.length} clips`}
          </button>
          <Rows plan={plan} clips={clips} sources={asked.sources} />
        </>
      ) : waiting ? (
        <p className="text-faint text-[13px]">Working out a plan…</p>
      ) : (
        <Note tone="missed">
          {problem
            ? `${problem.charAt(0).toUpperCase()}${problem.slice(1)}.`
            : 'There is no way within these speeds and as much music as there is: allow more speeds, other lengths, or fewer clips.'}
        </Note>
      )}
    </>
  );
}

function checked(speed: number): number {
  if (!(speed > 0)) throw new InvalidInput('speed', 'must be above 0');
  return speed;
}

/** The plan, clip by clip: beats, speed, landings. A length set here is kept. */
function Rows({ plan, clips, sources }: { plan: LayPlan; clips: readonly BenchClip[]; sources: readonly Source[] }) {
  const kept = useLay((s) => s.kept);
  const set = (clipId: string, beats: number) => useLay.setState({ kept: { ...kept, [clipId]: Math.max(1, beats) } });
  const free = (clipId: string) =>
    useLay.setState({ kept: Object.fromEntries(Object.entries(kept).filter(([id]) => id !== clipId)) });
  return (
    <ol className="divide-line divide-y" aria-label="The plan">
      {plan.clips.map((laid) => {
        const { clipId, from, to, frames, landings } = laid;
        const bench = clips.find(({ clip }) => clip.id === clipId);
        const name = bench?.clip.name ?? '';
        const decided = kept[clipId] !== undefined;
        return (
          <li key={clipId} className="flex items-center gap-1.5 py-1 text-sm">
            <span className="min-w-0 flex-1">
              <button className="block w-full truncate text-left hover:underline" onClick={() => activate(clipId)}>
                {name}
              </button>
              {bench && <span className="text-faint block text-xs">{coversText(laid, bench, sources)}</span>}
            </span>
            <span className="text-moss w-16 text-right font-mono text-xs whitespace-nowrap">
              {landings.length > 0 ? `${landings.length} land${landings.length > 1 ? '' : 's'}` : ''}
            </span>
            <button
              className="button px-1 py-0.5"
              aria-label={`${name}: a beat less`}
              onClick={() => set(clipId, to - from - 1)}
            >
              <Minus size={12} aria-hidden />
            </button>
            <button
              className={`w-20 text-center font-mono text-xs ${decided ? 'text-river font-semibold' : ''}`}
              data-tip={decided ? 'Decided here; press to let it choose' : `${frames} frames`}
              onClick={() => (decided ? free(clipId) : set(clipId, to - from))}
            >
              {to - from} beat{to - from === 1 ? '' : 's'}
              {decided && ' ·'}
            </button>
            <button
              className="button px-1 py-0.5"
              aria-label={`${name}: a beat more`}
              onClick={() => set(clipId, to - from + 1)}
            >
              <Plus size={12} aria-hidden />
            </button>
          </li>
        );
      })}
    </ol>
  );
}

/** What of a clip its room covers, and what that does to its speeds. */
function coversText(
  { covers: [first, last], keeps, outside }: LayPlan['clips'][number],
  bench: BenchClip,
  sources: readonly Source[],
): string {
  const end = bench.frames - 1;
  const [from, to] = [Math.max(0, Math.round(first)), Math.min(end, Math.round(last))];
  const more = Math.max(0, Math.round(-first)) + Math.max(0, Math.round(last - end));
  const own = from === 0 && to === end ? 'all of it' : `its frames ${from} to ${to}, of ${bench.frames}`;
  const moments = sources.find(({ id }) => id === bench.source.id)?.moments ?? [];
  const names = outside.map((id) => moments.find((moment) => moment.id === id)?.name || 'a moment');
  return [
    more > 0 ? `${own}, and ${more} more` : own,
    keeps ? 'speeds stay' : 'squeezed',
    ...(names.length > 0 ? [`${names.map((name) => `“${name}”`).join(', ')} outside`] : []),
  ].join(' · ');
}
