import {
  accentTimes,
  accentsName,
  clipsBesideCuts,
  flickerSpots,
  newAccents,
  putAccents,
  removeAccents,
  whipLine,
} from '@idle-bend/core/accent';
import { ACCENT_KINDS, LOOKS, type AccentKind } from '@idle-bend/core/look';
import type { AccentSet, Project } from '@idle-bend/core/model';
import { formatTimecode } from '@idle-bend/core/time';
import { MoveDiagonal, Plus, Trash2, X } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { AmountFields } from './amount-fields.tsx';
import { LookFields } from './look-fields.tsx';
import { Covered, Marks } from './marks.tsx';
import { PlaceFields, RangeFields } from './place-fields.tsx';
import { useMotions } from '../motion.ts';
import { useHeard } from '../sound/use-sounds.ts';
import { Note, Panel } from '../../ui/panel.tsx';
import { SlideField } from '../../ui/slide-field.tsx';
import { edit, editDuringGesture } from '../../session/session.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { attempt, newId } from '../../session/command.ts';

/** Flashes, punches and the like: sets of them, each by its pattern; every one listed. */
export function AccentsPanel({ bench, chosen }: { bench: BenchClip; chosen: string | undefined }) {
  const { project } = bench;
  const { accents } = project.reel;
  const open = accents.find(({ id }) => id === chosen) ?? accents[0];
  const spots = flickerSpots(project);
  const { rate } = project.reel;
  return (
    <Panel
      title="Accents"
      recipe="accents"
      about={accents.length === 0 ? 'none yet' : `${accentTimes(project).length} on the reel`}
      action={
        <button className="button px-1.5" aria-label="Close" onClick={() => select({ kind: 'clip' })}>
          <X size={15} aria-hidden />
        </button>
      }
    >
      <div className="flex flex-wrap gap-1.5">
        {accents.map(({ id, name }) => (
          <button
            key={id}
            className="button px-2 text-xs"
            aria-pressed={id === open?.id}
            onClick={() => select({ kind: 'accents', id })}
          >
            {name}
          </button>
        ))}
      </div>
      {spots.map(({ from, to, flashes }) => (
        <Note key={from} tone="missed">
          {flashes} flashes of the whole picture within a second, {formatTimecode(from, rate)} to{' '}
          {formatTimecode(to, rate)}: more than three may harm viewers and is refused by broadcasters.
        </Note>
      ))}
      <Covered project={project} />
      {open && <OneSet project={project} set={open} />}
      {[
        { label: 'On the music, cues or cuts', kinds: ACCENT_KINDS.filter((kind) => !goesOn(kind)) },
        { label: 'Transitions, at every cut', kinds: ACCENT_KINDS.filter((kind) => LOOKS[kind].acrossCuts) },
        {
          label: 'Over a stretch: the reel’s range, or this clip',
          kinds: ACCENT_KINDS.filter((kind) => LOOKS[kind].sustained),
        },
      ].map(({ label, kinds }) => (
        <div key={label} role="group" aria-label={label}>
          <span className="label">{label}</span>
          <div className="flex flex-wrap gap-1.5">
            {kinds.map((kind) => (
              <button
                key={kind}
                className="button px-2 text-xs"
                data-tip={LOOKS[kind].title}
                onClick={() => attempt(() => begin(bench, kind))}
              >
                <Plus size={13} aria-hidden /> {kind}
              </button>
            ))}
          </div>
        </div>
      ))}
    </Panel>
  );
}

const goesOn = (kind: AccentKind) => Boolean(LOOKS[kind].acrossCuts ?? LOOKS[kind].sustained);

function begin({ project, start, frames }: BenchClip, kind: AccentKind): void {
  const made = newAccents(project, kind, newId('accents'));
  const onClip = LOOKS[kind].sustained && !project.reel.range;
  const set: AccentSet = onClip ? { ...made, on: { kind: 'range', from: start, to: start + frames } } : made;
  edit((before) => putAccents(before, set));
  select({ kind: 'accents', id: set.id });
  // Its settings are at the top.
  document.querySelector('section[aria-label=Accents]')?.scrollIntoView({ block: 'start' });
}

/** Letters of a title that its font does not have. The outlines are loaded for it. */
function MissingLetters({ text }: { text: string }) {
  const [missing, setMissing] = useState<readonly string[]>([]);
  useEffect(() => {
    let isOver = false;
    void import('@idle-bend/core/title').then(
      ({ missingLetters }) => !isOver && setMissing(missingLetters(text)),
      () => undefined,
    );
    return () => {
      isOver = true;
    };
  }, [text]);
  if (missing.length === 0) return null;
  return (
    <Note tone="missed">Its font has no {missing.map((letter) => `“${letter}”`).join(', ')}; the rest is shown.</Note>
  );
}

/** Lays a whip along the line the pictures move beside its cuts, as far as that is known. */
function AsItMoves({
  project,
  set,
  put,
}: {
  project: Project;
  set: AccentSet;
  put: (look: AccentSet['look']) => void;
}) {
  const motions = useMotions(clipsBesideCuts(project, set).flatMap((clips) => clips.map(({ sourceId }) => sourceId)));
  const line = useMemo(() => whipLine(project, set, motions), [project, set, motions]);
  if (line === undefined || set.look.kind !== 'whip' || set.look.degrees === line) return null;
  const { look } = set;
  return (
    <button className="button self-start" onClick={() => put({ ...look, degrees: line })}>
      <MoveDiagonal size={15} aria-hidden /> As the pictures move: {line}°
    </button>
  );
}

function OneSet({ project, set }: { project: Project; set: AccentSet }) {
  const sound =
    set.on.kind === 'music'
      ? project.reel.sounds.find(({ id }) => set.on.kind === 'music' && id === set.on.soundId)
      : project.reel.sounds[0];
  const heard = useHeard(sound?.footageId ?? '');
  const changed = (change: Partial<AccentSet>): AccentSet => {
    const next = { ...set, ...change };
    return { ...next, name: accentsName(next) };
  };
  const put = (change: Partial<AccentSet>) => edit((before) => putAccents(before, changed(change)));
  return (
    <>
      <LookFields look={set.look} put={(look) => put({ look })} />
      {set.look.kind === 'whip' && <AsItMoves project={project} set={set} put={(look) => put({ look })} />}
      {set.look.kind === 'title' && <MissingLetters text={set.look.text} />}
      {!LOOKS[set.look.kind].isWhole && (
        <SlideField
          label="Strength"
          value={Math.round(set.strength * 100)}
          low={0}
          high={100}
          ends={['none', 'full']}
          shown={`${Math.round(set.strength * 100)} %`}
          slide={(value) => editDuringGesture((before) => putAccents(before, changed({ strength: value / 100 })))}
        />
      )}
      {set.on.kind === 'range' && !LOOKS[set.look.kind].isWhole && (
        <AmountFields project={project} amount={set.amount} put={(amount) => put({ amount })} />
      )}
      {set.on.kind === 'range' && <RangeFields project={project} range={set.on} put={(on) => put({ on })} />}
      {!goesOn(set.look.kind) && (
        <PlaceFields project={project} set={set} sound={sound} heard={heard} put={(on) => put({ on })} />
      )}
      {set.on.kind !== 'range' && <Marks project={project} set={set} />}
      <button
        className="button self-start"
        onClick={() => {
          edit((before) => removeAccents(before, set.id));
          select({ kind: 'accents', id: undefined });
        }}
      >
        <Trash2 size={15} aria-hidden /> Remove “{set.name}”
      </button>
    </>
  );
}
