import { Tooltip } from 'radix-ui';
import { useEffect, useId, useState } from 'react';

interface Tip {
  readonly of: HTMLElement;
  readonly text: string;
}

/** After a pointer has rested on something for this long, its tip shows. */
const REST_MS = 500;

/** The tips of everything that has one (`data-tip`): shown when a pointer rests there or the keys come to it, gone at a press or Escape. */
export function Tips() {
  const tip = useTip();
  const id = useId();
  useEffect(() => {
    if (!tip) return;
    tip.of.setAttribute('aria-describedby', id);
    return () => tip.of.removeAttribute('aria-describedby');
  }, [tip, id]);
  if (!tip) return null;
  const { left, top, width, height } = tip.of.getBoundingClientRect();
  return (
    <Tooltip.Provider>
      <Tooltip.Root open>
        <Tooltip.Trigger asChild>
          <span aria-hidden className="pointer-events-none fixed" style={{ left, top, width, height }} />
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={6}
            collisionPadding={8}
            className="bg-ink text-paper pointer-events-none z-50 max-w-72 rounded-md px-2.5 py-1.5 text-[13px] leading-snug shadow-lg"
          >
            <span id={id}>{tip.text}</span>
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

/** What has the pointer or the keys now, if it has a tip. */
function useTip(): Tip | undefined {
  const [tip, setTip] = useState<Tip>();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let over: HTMLElement | undefined;
    const hide = () => {
      clearTimeout(timer);
      over = undefined;
      setTip(undefined);
    };
    const show = (of: HTMLElement) => {
      const text = of.dataset['tip'];
      if (text && of.isConnected) setTip({ of, text });
    };
    const tipped = (event: Event) => (event.target as Element).closest?.<HTMLElement>('[data-tip]') ?? undefined;
    const hover = (event: Event) => {
      const next = tipped(event);
      if (next === over) return;
      hide();
      over = next;
      if (next) timer = setTimeout(() => show(next), REST_MS);
    };
    const focus = (event: Event) => {
      const next = tipped(event);
      if (next && (event.target as Element).matches(':focus-visible')) show(next);
    };
    const end = new AbortController();
    const { signal } = end;
    document.addEventListener('pointerover', hover, { signal });
    document.addEventListener('focusin', focus, { signal });
    for (const name of ['pointerdown', 'focusout', 'scroll', 'wheel'])
      document.addEventListener(name, hide, { signal, capture: true });
    document.addEventListener('keydown', (event) => event.key === 'Escape' && hide(), { signal });
    return () => {
      end.abort();
      clearTimeout(timer);
    };
  }, []);
  return tip;
}
