import { useMutation } from '@tanstack/react-query';
import { formatTimecode, frameToSeconds, sameRate, speakRate, type Footage, type PictureFacts } from '@idle-bend/core';
import { AudioLines, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, stripUrl } from '../api.ts';
import { Bar } from '../shell/bar.tsx';
import { edit, useProject } from '../shell/project-store.ts';
import { useProgress } from '../shell/use-server-events.ts';
import { putOnReel, readFootageAs } from './put-on-reel.ts';
import { whatItBears } from './what-it-bears.ts';

const shape = ({ num, den }: { num: number; den: number }) => `${num}:${den}`;

/** What is unusual about a file and worth knowing before bending it. */
function notes({ picture, sound, startTimecode }: Footage['facts']): string[] {
  const all = [
    picture?.variable && `variable rate, laid on ${speakRate(picture.rate)} fps: ${picture.variable.held} frames held, ${picture.variable.dropped} left out`,
    picture?.interlaced && 'interlaced; read as whole frames',
    picture && shape(picture.pixelAspect) !== '1:1' && `pixels ${shape(picture.pixelAspect)}`,
    picture && picture.rotation !== 0 && `turned ${picture.rotation}°`,
    startTimecode && `starts at ${startTimecode}`,
    picture && sound && Math.abs(sound.startSeconds) > 0.001 && `sound starts at ${sound.startSeconds.toFixed(3)} s`,
  ];
  return all.filter((note): note is string => typeof note === 'string');
}

export function FootageCard({ footage, projectId }: { footage: Footage; projectId: string }) {
  const navigate = useNavigate();
  const document = useProject((s) => s.document)!;
  const progress = useProgress((s) => s.of[footage.id]);
  const remove = useMutation({ mutationFn: () => api.removeFootage(footage.id), onError: (e) => toast.error(e.message) });
  const { picture, sound, bytes, durationSeconds } = footage.facts;
  const readAs = document.sources.find((s) => s.id === footage.id)?.readAs ?? picture?.rate;
  const soundWords = sound ? `sound ${sound.codec}` : 'no sound';
  const bend = () => {
    edit((project) => putOnReel(project, footage, picture!));
    void navigate(`/projects/${projectId}/bench`);
  };
  return (
    <li className="border-line bg-sheet flex flex-col overflow-hidden rounded-xl border" aria-label={footage.name}>
      {picture ? <CardPicture footage={footage} picture={picture} /> : <SoundPicture />}
      <div className="flex flex-1 flex-col p-4">
        <p className="font-display mb-1 text-base font-semibold break-all">{footage.name}</p>
        {picture && (
          <p className="text-faint font-mono text-xs">
            {speakRate(picture.rate)} fps · {picture.width}×{picture.height} · {picture.frames} frames ·{' '}
            {frameToSeconds(picture.frames, picture.rate).toFixed(2)} s
          </p>
        )}
        <p className="text-faint font-mono text-xs">
          {picture ? `${picture.codec}, ${picture.bitDepth} bit · ` : `${durationSeconds?.toFixed(2) ?? '?'} s · `}
          {(bytes / 1e6).toFixed(1)} MB · {soundWords}
        </p>
        <p className="mt-2 text-sm">{picture && readAs ? whatItBears(readAs, document.reel.rate) : 'Sound only: there is no picture to bend.'}</p>
        {notes(footage.facts).map((note) => (
          <p key={note} className="text-brass text-sm">
            {note}
          </p>
        ))}
        {picture && <ReadAs footage={footage} picture={picture} />}
        {footage.status === 'failed' && <p className="text-vermilion text-sm">{footage.problem}</p>}
        {footage.status === 'preparing' && (
          <>
            <Bar done={progress?.done ?? 0} total={progress?.total ?? picture?.frames ?? 1} label={`Preparing ${footage.name}`} />
            <p className="text-faint text-xs">Preparing its proxy…</p>
          </>
        )}
        <div className="mt-auto flex gap-2 pt-3">
          {picture && (
            <button className="button" disabled={footage.status !== 'ready'} onClick={bend}>
              Bend this clip
            </button>
          )}
          <button className="button ml-auto px-2" aria-label={`Remove ${footage.name}`} onClick={() => remove.mutate()}>
            <Trash2 size={15} aria-hidden />
          </button>
        </div>
      </div>
    </li>
  );
}

/** What the camera says it shot at is offered; what the file says is one press back. */
function ReadAs({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const readAs = useProject((s) => s.document?.sources.find((source) => source.id === footage.id)?.readAs) ?? picture.rate;
  const { captureRate } = footage.facts;
  const offer = !sameRate(readAs, picture.rate) ? picture.rate : captureRate && !sameRate(captureRate, picture.rate) ? captureRate : undefined;
  if (!offer) return null;
  const back = sameRate(offer, picture.rate);
  return (
    <p className="text-brass mt-1 flex items-center gap-2 text-sm">
      {back ? `read as ${speakRate(readAs)} fps` : `shot at ${speakRate(offer)} fps, by its tag`}
      <button className="button ml-auto py-0.5" onClick={() => edit((project) => readFootageAs(project, footage, picture, offer))}>
        Read as {speakRate(offer)}
      </button>
    </p>
  );
}

function SoundPicture() {
  return (
    <div className="bg-frame grid aspect-video w-full place-items-center text-white/60">
      <AudioLines size={44} aria-hidden />
    </div>
  );
}

/** The filmstrip's picture under the pointer, so that moving over a card looks through the clip. */
function CardPicture({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const [at, setAt] = useState(0.3);
  const { count, step } = picture.strip;
  const { width, height } = picture.proxy;
  const index = Math.min(count - 1, Math.max(0, Math.floor(at * count)));
  const whole = { aspectRatio: `${width} / ${height}`, ...(width / height >= 16 / 9 ? { width: '100%' } : { height: '100%' }) };
  return (
    <div
      className="bg-frame relative grid aspect-video w-full place-items-center"
      onPointerMove={(e) => setAt((e.clientX - e.currentTarget.getBoundingClientRect().left) / e.currentTarget.clientWidth)}
    >
      {footage.status === 'ready' && (
        <>
          <div
            style={{
              ...whole,
              backgroundImage: `url(${stripUrl(footage.id)})`,
              backgroundSize: `${count * 100}% 100%`,
              backgroundPosition: count > 1 ? `${(index / (count - 1)) * 100}% 0` : '0 0',
            }}
          />
          <span className="absolute right-2 bottom-2 rounded bg-black/60 px-1.5 font-mono text-xs text-white">
            {formatTimecode(index * step, picture.rate)}
          </span>
        </>
      )}
    </div>
  );
}
