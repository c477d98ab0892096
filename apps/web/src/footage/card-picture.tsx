import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { formatTimecode } from '@idle-bend/core/time';
import { AudioLines } from 'lucide-react';
import { useRef, useState, type KeyboardEvent } from 'react';
import { posterUrl, stripUrl } from '../api.ts';
import { clearInOutPoints, mark, useFootageRoom } from './in-out-points.ts';

export function SoundPicture() {
  return (
    <div className="bg-frame grid aspect-video w-full place-items-center text-white/60">
      <AudioLines size={44} aria-hidden />
    </div>
  );
}

/** The keys go to the card under the pointer, unless something is being typed. */
function takeFocus(card: HTMLElement | null): void {
  if (!document.activeElement?.matches('input, select, textarea')) card?.focus({ preventScroll: true });
}

/**
 * The filmstrip's picture under the pointer, so that moving over a card looks through the clip; I and O set where the
 * wanted part begins and ends. With the keyboard the arrows move by a frame, with Shift by ten.
 */
export function CardPicture({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const { frames, strip, proxy, rate } = picture;
  const [frame, setFrame] = useState(Math.floor(frames * 0.3));
  const focus = useRef<HTMLDivElement>(null);
  const { first, last } = useFootageRoom((s) => s.marks[footage.id]) ?? {};
  const move = (to: number) => setFrame(Math.max(0, Math.min(frames - 1, Math.round(to))));
  const onKey = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 10 : 1;
    const known: Readonly<Record<string, () => void>> = {
      ArrowLeft: () => move(frame - step),
      ArrowRight: () => move(frame + step),
      Home: () => move(0),
      End: () => move(frames - 1),
      i: () => mark(footage.id, 'first', frame),
      o: () => mark(footage.id, 'last', frame),
      Escape: () => clearInOutPoints(footage.id),
    };
    const act = known[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };
  const index = Math.min(strip.count - 1, Math.floor(frame / strip.step));
  const whole = {
    aspectRatio: `${proxy.width} / ${proxy.height}`,
    ...(proxy.width / proxy.height >= 16 / 9 ? { width: '100%' } : { height: '100%' }),
  };
  const percent = (n: number) => `${(n / frames) * 100}%`;
  return (
    <div
      ref={focus}
      tabIndex={0}
      role="slider"
      aria-label={`Look through ${footage.name}; I and O mark the part that is wanted`}
      aria-valuemin={0}
      aria-valuemax={frames - 1}
      aria-valuenow={frame}
      aria-valuetext={`frame ${frame}`}
      className="bg-frame relative grid aspect-video w-full place-items-center outline-offset-[-3px]"
      onPointerEnter={() => takeFocus(focus.current)}
      onPointerMove={(e) =>
        move(((e.clientX - e.currentTarget.getBoundingClientRect().left) / e.currentTarget.clientWidth) * frames)
      }
      onKeyDown={onKey}
    >
      {footage.status === 'preparing' && !footage.missing && (
        <img src={posterUrl(footage.id, footage.revision)} alt="" className="h-full w-full object-contain" />
      )}
      {footage.status === 'ready' && (
        <>
          <div
            style={{
              ...whole,
              backgroundImage: `url(${stripUrl(footage.id, footage.revision)})`,
              backgroundSize: `${strip.count * 100}% 100%`,
              backgroundPosition: strip.count > 1 ? `${(index / (strip.count - 1)) * 100}% 0` : '0 0',
            }}
          />
          <span className="absolute right-2 bottom-3 rounded bg-black/60 px-1.5 font-mono text-xs text-white">
            {formatTimecode(frame, rate)} · {frame}
          </span>
          <div className="absolute inset-x-0 bottom-0 h-1.5 bg-black/40" aria-hidden>
            {(first !== undefined || last !== undefined) && (
              <div
                className="bg-river absolute inset-y-0"
                style={{ left: percent(first ?? 0), right: `calc(100% - ${percent((last ?? frames - 1) + 1)})` }}
              />
            )}
            <div className="absolute inset-y-0 w-0.5 bg-white" style={{ left: percent(frame) }} />
          </div>
        </>
      )}
    </div>
  );
}
