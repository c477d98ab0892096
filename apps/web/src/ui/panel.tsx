import type { ReactNode } from 'react';
import { GuideButton } from '../guide/guide-button.tsx';

/** What concerns the thing selected: its name, a line about it, its controls. */
export function Panel({
  title,
  about,
  action,
  recipe,
  children,
}: {
  title: string;
  about?: string;
  action?: ReactNode;
  /** The page of the guide that says how this is used. */
  recipe?: string;
  children: ReactNode;
}) {
  return (
    <section aria-label={title} className="flex flex-col gap-2.5 px-3.5 py-2.5">
      <div className="flex items-baseline gap-2">
        <h2 className="font-display text-base font-semibold whitespace-nowrap">{title}</h2>
        {about && <p className="text-faint truncate font-mono text-xs">{about}</p>}
        {recipe && <GuideButton recipe={recipe} />}
        {action && <span className="ml-auto self-center">{action}</span>}
      </div>
      {children}
    </section>
  );
}

/** A sentence that says how things stand. */
export function Note({ tone = 'plain', children }: { tone?: 'plain' | 'landed' | 'missed'; children: ReactNode }) {
  const edge = { plain: 'border-line', landed: 'border-moss', missed: 'border-vermilion border-dashed' }[tone];
  return <p className={`bg-sheet rounded-lg border px-3 py-2 text-sm ${edge}`}>{children}</p>;
}
