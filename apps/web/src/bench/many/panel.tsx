import { READ_AS_RATES } from '../../footage/read-as-rates.ts';
import { useQuery } from '@tanstack/react-query';
import { FITTED, NO_BLUR, DEFAULT_SHUTTER, DEFAULT_SMEAR, type Clip, type Project } from '@idle-bend/core/model';
import { clipSlope, sourceOf } from '@idle-bend/core/reel';
import { clipFrameCount, usableFrames } from '@idle-bend/core/sampling';
import { BEND_SHAPES, type SavedShape } from '@idle-bend/core/shape';
import { speedRange, type TimeMap } from '@idle-bend/core/time-map';
import { ArrowRight, Blend, CheckCheck, ChevronsRightLeft, Group, Trash2, X } from 'lucide-react';
import { useCallback, useMemo } from 'react';
import { tell } from '../../session/notices.ts';
import { api } from '../../api.ts';
import { groupHere } from '../group/commands.ts';
import { dissolvePicked } from '../accent/commands.ts';
import { takePickedOff } from '../clip/commands.ts';
import { joinPicked } from '../join/commands.ts';
import { putOnMany, type ForMany } from '@idle-bend/core/edit';
import { speedWords } from '../speed/speed-words.ts';
import { CurveDrawing } from '../shape/curve-drawing.tsx';
import { ShapeGrid, shapeNamed } from '../shape/shape-grid.tsx';
import { useShapeNote } from '../shape/shape-note.tsx';
import { Panel } from '../../ui/panel.tsx';
import { edit } from '../../session/session.ts';
import { benchStore, type BenchClip } from '../../session/bench-state.ts';
import { useKept } from '../../ui/use-kept.ts';
import { useBench } from '../../ui/use-session.ts';
import { Select } from '../../ui/select.tsx';

/** Per cent. */
const SPEEDS = [10, 20, 25, 40, 50, 75, 100, 150, 200, 400];

/** What is put on when the shape that was chosen is gone. */
const NOTHING_ELSE: ForMany = { kind: 'curve', how: 'stretch' };

/** Everything that can be put on several clips, by the key its entry in the list has. */
function choices(
  saved: readonly SavedShape[],
  { framing, blur, sound: { reaches: _, ...sound } }: Clip,
): { group: string; entries: { key: string; text: string; what: ForMany }[] }[] {
  const own = saved.flatMap((s) =>
    s.kind === 'clip' ? [{ key: s.id, text: s.name, what: { kind: 'shape', map: s.map } as const }] : [],
  );
  return [
    {
      group: 'The curve on the bench',
      entries: [
        { key: 'stretch', text: 'stretched to each clip', what: { kind: 'curve', how: 'stretch' } },
        { key: 'frames', text: 'by its own frames and speeds', what: { kind: 'curve', how: 'frames' } },
      ],
    },
    ...(own.length > 0 ? [{ group: 'A shape of your own', entries: own }] : []),
    {
      group: 'The shape of all bends',
      entries: BEND_SHAPES.map(({ id, name, ease }) => ({
        key: `bend-${id}`,
        text: name,
        what: { kind: 'bend', ease },
      })),
    },
    {
      group: 'Speed over all',
      entries: SPEEDS.map((speed) => ({
        key: `speed-${speed}`,
        text: `${speed} %`,
        what: { kind: 'speed', speed: speed / 100 },
      })),
    },
    {
      group: 'Read as',
      entries: [
        { key: 'conform', text: 'the reel’s rate, every frame once', what: { kind: 'conform' } },
        ...READ_AS_RATES.map((rate) => ({
          key: `rate-${rate}`,
          text: `${rate} fps`,
          what: { kind: 'readAs', rate } as const,
        })),
      ],
    },
    {
      group: 'In-betweens',
      entries: [
        { key: 'step', text: 'Step', what: { kind: 'method', method: 'step' } },
        { key: 'mix', text: 'Mix', what: { kind: 'method', method: 'mix' } },
        { key: 'flow', text: 'Flow', what: { kind: 'method', method: 'flow' } },
      ],
    },
    {
      group: 'Motion blur',
      entries: [
        { key: 'shutter', text: 'a shutter of 180°', what: { kind: 'blur', blur: DEFAULT_SHUTTER } },
        { key: 'smear', text: 'a smear', what: { kind: 'blur', blur: DEFAULT_SMEAR } },
        { key: 'unblurred', text: 'none', what: { kind: 'blur', blur: NO_BLUR } },
        { key: 'reel-blur', text: 'the reel’s', what: { kind: 'blur', blur: null } },
        { key: 'bench-blur', text: 'as the clip on the bench', what: { kind: 'blur', blur } },
      ],
    },
    {
      group: 'Framing',
      entries: [
        { key: 'fit', text: 'whole, black beside it', what: { kind: 'framing', framing: FITTED } },
        { key: 'fill', text: 'fills the picture', what: { kind: 'framing', framing: { ...FITTED, fit: 'fill' } } },
        { key: 'bench-framing', text: 'as the clip on the bench', what: { kind: 'framing', framing } },
      ],
    },
    {
      group: 'Sound of the clips',
      entries: [
        { key: 'follow', text: 'pitch follows the speed', what: { kind: 'sound', sound: { mode: 'follow' } } },
        { key: 'keep', text: 'keeps its pitch', what: { kind: 'sound', sound: { mode: 'keep' } } },
        { key: 'mute', text: 'muted', what: { kind: 'sound', sound: { mode: 'mute' } } },
        { key: 'bench-sound', text: 'as the clip on the bench', what: { kind: 'sound', sound } },
      ],
    },
    { group: 'Reset', entries: [{ key: 'plain', text: 'back to plain, 100 %', what: { kind: 'plain' } }] },
  ];
}

type Put = ReturnType<typeof putOnMany>;

/** One thing for all clips that are picked, with what would come of it for each; one undo. */
export function ManyPanel({ bench }: { bench: BenchClip }) {
  const picked = useBench((s) => s.picked);
  const { data: saved = [] } = useQuery({ queryKey: ['shapes'], queryFn: api.shapes });
  const [key, setKey] = useKept('on many', 'stretch');
  const { clip } = bench;
  const groups = useMemo(() => choices(saved, clip), [saved, clip]);
  const what = useMemo(
    () => groups.flatMap((g) => g.entries).find((e) => e.key === key)?.what ?? NOTHING_ELSE,
    [groups, key],
  );
  const { project } = bench;
  const note = useShapeNote();
  const pointed = shapeNamed(note.shown?.name);
  const ids = useMemo(
    () => project.reel.items.filter(({ id }) => id === clip.id || picked.includes(id)).map(({ id }) => id),
    [project, clip.id, picked],
  );
  const put = useCallback((thing: ForMany) => putOnMany(project, ids, clip, thing), [project, ids, clip]);
  const result = useMemo(() => put(what), [put, what]);
  const seen = useMemo(() => (pointed ? put({ kind: 'shape', map: pointed }) : result), [put, pointed, result]);
  const taken = ({ outcomes }: Put) => outcomes.filter((o) => o.after).length;
  const apply = (done: Put) => {
    edit(() => done.project);
    tell(`Put on ${taken(done)} clips; one undo takes it off all of them.`);
  };
  const putShape = (map: TimeMap) => {
    apply(put({ kind: 'shape', map }));
    // Whoever then turns to one of them goes on with shapes.
    benchStore.setState({ clipPage: 'shapes' });
  };
  return (
    <Panel
      title={`${ids.length} clips`}
      recipe="many-clips"
      about="picked with Ctrl and a press"
      action={
        <button className="button px-1.5" aria-label="Pick none" onClick={() => benchStore.setState({ picked: [] })}>
          <X size={15} aria-hidden />
        </button>
      }
    >
      <ShapeGrid label="A shape for all of them" note={note} put={putShape} />
      <div className="flex items-end gap-3">
        <div className="min-w-0 flex-1">
          <Select
            label="Put on all of them"
            value={key}
            options={groups.map(({ group, entries }) => ({
              group,
              options: entries.map((entry) => ({ value: entry.key, text: entry.text })),
            }))}
            choose={setKey}
          />
        </div>
        <button
          className="button button-ink h-8"
          disabled={taken(result) === 0 || result.project === project}
          onClick={() => apply(result)}
        >
          <CheckCheck size={15} aria-hidden /> Apply
        </button>
      </div>
      <div className="flex flex-wrap gap-2">
        <button
          className="button"
          onClick={joinPicked}
          data-tip="At every cut between them the first speeds up and the second settles"
        >
          <ChevronsRightLeft size={15} aria-hidden /> Ramp join
        </button>
        <button
          className="button"
          onClick={dissolvePicked}
          data-tip="At every cut between them the first fades into the next"
        >
          <Blend size={15} aria-hidden /> Dissolve
        </button>
        <button
          className="button"
          onClick={groupHere}
          data-tip="Neighbours become one clip with a curve of its own, which can be opened again"
        >
          <Group size={15} aria-hidden /> Group
        </button>
        <button className="button" onClick={takePickedOff} data-tip="Off the reel; what follows moves up (Shift Del)">
          <Trash2 size={15} aria-hidden /> Remove
        </button>
      </div>
      <ul className="flex flex-col gap-1.5" aria-label="What would come of it">
        {seen.outcomes.map(({ clip: before, after, refusal }) => (
          <li
            key={before.id}
            className="border-line bg-sheet grid grid-cols-[56px_16px_56px_1fr] items-center gap-2 rounded-lg border px-2 py-1"
          >
            <CurveDrawing map={before.map} />
            <ArrowRight size={14} aria-hidden className="text-faint" />
            {after ? <CurveDrawing map={after.map} /> : <span className="text-vermilion text-center">–</span>}
            <span className="min-w-0 text-xs">
              <span className="block truncate font-semibold">{before.name}</span>
              <span className={refusal ? 'text-vermilion' : 'text-faint font-mono'}>
                {refusal ?? outcomeWords(seen.project, after!)}
              </span>
            </span>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

function outcomeWords(project: Project, clip: Clip): string {
  const frames = clipFrameCount(clip.map, usableFrames(sourceOf(project, clip)));
  return `${frames} frames · ${speedWords(speedRange(clip.map, clipSlope(project, clip)))}`;
}
