import type { ServerEvent } from '@idle-bend/core/api';
import { Injectable } from '@nestjs/common';
import { BehaviorSubject, distinctUntilChanged, filter, map, merge, interval, Subject, type Observable } from 'rxjs';

/** News of the same kind is told once in so many milliseconds. */
const TOGETHER_MS = 250;

@Injectable()
export class Events {
  private readonly subject = new Subject<{ projectId: string; event: ServerEvent }>();

  private readonly foreground = new BehaviorSubject(false);

  /** What only says that there is news waits for more of it for a moment, so that many at once are told once. */
  private readonly waiting = new Map<string, boolean>();

  tell(projectId: string, event: ServerEvent): void {
    if (event.kind !== 'footage' && event.kind !== 'renders') return this.subject.next({ projectId, event });
    const key = `${event.kind} ${projectId}`;
    if (this.waiting.has(key)) return void this.waiting.set(key, true);
    this.subject.next({ projectId, event });
    this.waiting.set(key, false);
    setTimeout(() => {
      const isMore = this.waiting.get(key);
      this.waiting.delete(key);
      if (isMore) this.tell(projectId, event);
    }, TOGETHER_MS).unref();
  }

  /** Tells everybody, those too who begin to listen, whether what is made ahead stands still. */
  tellForeground(isBusy: boolean): void {
    this.foreground.next(isBusy);
  }

  /** A project's events and what everybody is told, with a sign of life every 15 s so that a dead connection is noticed. */
  of(projectId: string): Observable<{ data: object }> {
    const own = this.subject.pipe(
      filter((e) => e.projectId === projectId),
      map(({ event }) => ({ data: event })),
    );
    const everybody = this.foreground.pipe(
      distinctUntilChanged(),
      map((isBusy) => ({ data: { kind: 'foreground', isBusy } satisfies ServerEvent })),
    );
    return merge(own, everybody, interval(15_000).pipe(map(() => ({ data: { kind: 'alive' } }))));
  }
}
