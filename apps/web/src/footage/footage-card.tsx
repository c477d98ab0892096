import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { frameToSeconds, rate, speakRate } from '@idle-bend/core/time';
import { Music, Replace, Search, Trash2 } from 'lucide-react';
import { memo } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api.ts';
import { CardName } from './card-name.tsx';
import { CardPicture, SoundPicture } from './card-picture.tsx';
import { MotionStrip } from './motion-strip.tsx';
import { HealthStrip } from './health-strip.tsx';
import { clearInOutPoints, togglePick, useFootageRoom } from './in-out-points.ts';
import { layUnderReel } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { allClips } from '@idle-bend/core/reel';
import { useReplacing } from './replacing.tsx';
import { Preparing } from './preparing.tsx';
import { usePutOnReel } from './use-put-on-reel.tsx';
import { ReadAs } from './read-as.tsx';
import { slowMotionHeadroom } from './slow-motion-headroom.ts';
import { newId } from '../session/command.ts';
import { edit } from '../session/session.ts';
import { select } from '../session/bench-state.ts';
import { useProject } from '../ui/use-session.ts';
import { tell, tellError } from '../session/notices.ts';
import { Ask } from '../ui/ask.tsx';
import { Check } from '../ui/check.tsx';

const shape = ({ num, den }: { num: number; den: number }) => `${num}:${den}`;

/** What is unusual about a file and worth knowing before bending it. */
function notes({ picture, sound, startTimecode }: Footage['facts']): string[] {
  const all = [
    picture?.variable &&
      `variable rate, laid on ${speakRate(picture.rate)} fps: ${picture.variable.held} frames held, ${picture.variable.dropped} left out`,
    picture?.highRange &&
      `high dynamic range (${picture.highRange.toUpperCase()}): tone-mapped here; a render has the reel’s range`,
    picture?.alpha && 'has transparency: a lossless render carries it, MP4 has no place for it',
    picture?.interlaced && 'interlaced; read as whole frames until frames are made of its fields',
    picture && shape(picture.pixelAspect) !== '1:1' && `pixels ${shape(picture.pixelAspect)}`,
    picture && picture.rotation !== 0 && `turned ${picture.rotation}°`,
    startTimecode && `starts at ${startTimecode}`,
    picture && sound && Math.abs(sound.startSeconds) > 0.001 && `sound starts at ${sound.startSeconds.toFixed(3)} s`,
  ];
  return all.filter((note): note is string => typeof note === 'string');
}

/** What a recording of sound alone is good for, and how far it was listened to. */
function soundWordsOf({ sound }: Footage): string {
  if (sound === 'waiting') return 'Sound only. Listening for its beats…';
  return sound === 'failed'
    ? 'Sound only. It could not be listened to.'
    : 'Sound only: lay it under the reel, and land moments on its beats.';
}

interface CardProps {
  readonly footage: Footage;
  readonly projectId: string;
}

/** Said before what is estimated. */
const about = ({ estimate }: PictureFacts) => (estimate?.isCounted === false ? 'about ' : '');

/** A piece of footage: its picture, what is known of it, and what can be done with it. */
export const FootageCard = memo(Card);

function Card({ footage, projectId }: CardProps) {
  const navigate = useNavigate();
  const document = useProject((s) => s.document)!;
  const { picture, sound, bytes, durationSeconds } = footage.facts;
  const readAs = document.sources.find((s) => s.id === footage.id)?.readAs ?? picture?.rate;
  const soundWords = sound ? `sound ${sound.codec}` : 'no sound';
  const replacing = useReplacing(footage, projectId);
  const picked = useFootageRoom((s) => s.picked.includes(footage.id));
  const marks = useFootageRoom((s) => s.marks[footage.id]);
  const { put, question } = usePutOnReel(projectId);
  const lay = () => {
    const id = newId('sound');
    edit((project) => layUnderReel(project, footage, footage.facts.durationSeconds ?? 60, id));
    select({ kind: 'sound', id });
    void navigate(`/projects/${projectId}/bench`);
  };
  return (
    <>
      {picture ? <CardPicture footage={footage} picture={picture} /> : <SoundPicture />}
      {question}
      <div className="flex flex-1 flex-col p-4">
        <div className="mb-1 flex items-start gap-2">
          <CardName footage={footage} />
          {picture && (
            <Check
              label={`Pick ${footage.name}`}
              hidden
              className="mt-1 ml-auto"
              checked={picked}
              set={() => togglePick(footage.id)}
            />
          )}
        </div>
        {picture && (
          <p className="text-faint font-mono text-xs">
            {speakRate(picture.rate)} fps · {picture.width}×{picture.height} · {about(picture)}
            {picture.frames} frames · {frameToSeconds(picture.frames, picture.rate).toFixed(2)} s
          </p>
        )}
        <p className="text-faint font-mono text-xs">
          {picture ? `${picture.codec}, ${picture.bitDepth} bit · ` : `${durationSeconds?.toFixed(2) ?? '?'} s · `}
          {(bytes / 1e6).toFixed(1)} MB · {soundWords}
        </p>
        <p className="mt-2 text-sm">
          {picture && readAs ? slowMotionHeadroom(readAs, document.reel.rate) : soundWordsOf(footage)}
        </p>
        {notes(footage.facts).map((note) => (
          <p key={note} className="text-brass text-sm">
            {note}
          </p>
        ))}
        {picture?.interlaced && <Fields footage={footage} picture={picture} />}
        {picture && <ReadAs footage={footage} picture={picture} />}
        {picture && <MotionStrip footage={footage} />}
        {picture && <HealthStrip footage={footage} picture={picture} />}
        {footage.status === 'failed' && <p className="text-vermilion text-sm">{footage.problem}</p>}
        {footage.lies && <FileState footage={footage} />}
        {footage.missing && (
          <p className="text-vermilion flex items-center gap-2 text-sm">
            {footage.status === 'failed' ? '' : 'Its file is missing, so it cannot be rendered.'}
            <button className="button" onClick={replacing.choose}>
              <Search size={14} aria-hidden /> Find it…
            </button>
          </p>
        )}
        {footage.status === 'preparing' && picture && <Preparing footage={footage} picture={picture} />}
        {marks && (
          <p className="text-river mt-1 flex items-center text-sm">
            part: frames {marks.first ?? 0} to {marks.last ?? picture!.frames - 1}
            <button className="ml-auto underline" onClick={() => clearInOutPoints(footage.id)}>
              the whole
            </button>
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-3">
          {picture && (
            <button className="button" disabled={footage.status === 'failed'} onClick={() => put([footage])}>
              Bend this {marks ? 'part' : 'clip'}
            </button>
          )}
          {sound && (
            <button
              className="button"
              disabled={footage.sound === 'none'}
              onClick={lay}
              data-tip="Music or an effect under the picture"
            >
              <Music size={15} aria-hidden /> {picture ? 'Its sound' : 'Under the reel'}
            </button>
          )}
          <button
            className="button ml-auto px-2"
            aria-label={`Replace the file of ${footage.name}`}
            data-tip="Replace its file"
            onClick={replacing.choose}
          >
            <Replace size={15} aria-hidden />
          </button>
          {replacing.parts}
          <Removal footage={footage} />
        </div>
      </div>
    </>
  );
}

/** Puts footage into the bin after a question, says so, and how it comes back; of what the reel uses it says where. */
function Removal({ footage: { id, name, lies, facts } }: { footage: Footage }) {
  const queries = useQueryClient();
  const user = useProject(({ whole }) => whole && userOf(whole, id));
  const act = useMutation({
    mutationFn: (what: () => Promise<unknown>) => what(),
    onError: (e) => tellError(e.message),
    onSettled: () => queries.invalidateQueries({ queryKey: ['bin'] }),
  });
  const remove = async () => {
    await api.binFootage(id);
    tell(`“${name}” is in the bin for a day.`, {
      durationMs: 12_000,
      action: { label: 'Put back', run: () => act.mutate(() => api.restoreFootage(id)) },
    });
  };
  const used = () => tell(`“${name}” is used by “${user}”; take that off the reel first.`);
  const button = (
    <button className="button px-2" aria-label={`Remove ${name}`} onClick={user === undefined ? undefined : used}>
      <Trash2 size={15} aria-hidden />
    </button>
  );
  if (user !== undefined) return button;
  const means = [
    'It goes into the bin for a day.',
    facts.picture && 'Its proxy is made again when it is put back.',
    lies && 'The file stays where it lies.',
  ];
  return (
    <Ask
      question={`Remove “${name}”?`}
      means={means.filter(Boolean).join(' ')}
      yes="Remove"
      run={() => act.mutate(remove)}
    >
      {button}
    </Ask>
  );
}

/** The clip or sound a project uses footage by. */
const userOf = (project: Project, id: string): string | undefined =>
  allClips(project).find(({ sourceId }) => sourceId === id)?.name ??
  project.reel.sounds.find(({ footageId }) => footageId === id)?.name;

/** Of a file that is used where it lies: where that is, and what to do when it is not what it was. */
function FileState({ footage: { id, name, lies, changed } }: { footage: Footage }) {
  const take = useMutation({
    mutationFn: (same: boolean) => api.takeChanged(id, same),
    onError: (e) => tellError(e.message),
  });
  return (
    <>
      <p className="text-faint truncate font-mono text-xs" data-tip="Used where it lies; nothing was copied">
        {lies!.root} / {lies!.path}
      </p>
      {changed && (
        <div role="group" aria-label={`Changed file of ${name}`} className="text-vermilion text-sm">
          Its file was changed on the disk, so it is not used.
          <span className="mt-1 flex gap-2">
            <button className="button" disabled={take.isPending} onClick={() => take.mutate(false)}>
              Take it as it is now
            </button>
            <button className="button" disabled={take.isPending} onClick={() => take.mutate(true)}>
              It is the same
            </button>
          </span>
        </div>
      )}
    </>
  );
}

/** Interlaced footage holds twice as many instants as frames: real slow motion, once frames are made of its fields. */
function Fields({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const make = useMutation({
    mutationFn: () => api.makeFields(footage.id),
    onSuccess: () =>
      tell(`Frames are being made of the fields of ${footage.name}; they come in as footage of their own.`),
    onError: (e) => tellError(e.message),
  });
  const doubled = rate(picture.rate.num * 2, picture.rate.den);
  return (
    <button className="button mt-1 self-start py-0.5" disabled={!make.isIdle} onClick={() => make.mutate()}>
      Make {speakRate(doubled)} fps of its fields
    </button>
  );
}
