import type { ServerEvent } from '@idle-bend/core/api';
import { Injectable } from '@nestjs/common';
import {
  BehaviorSubject,
  distinctUntilChanged,
  filter,
  interval,
  map,
  merge,
  partition,
  Subject,
  throttleTime,
  type Observable,
} from 'rxjs';

/** That something of the footage is new is told at once, and then once in so many milliseconds. */
const NEWS_MS = 1000;

@Injectable()
export class Events {
  private readonly subject = new Subject<{ projectId: string; event: ServerEvent }>();

  private readonly foreground = new BehaviorSubject(false);

  tell(projectId: string, event: ServerEvent): void {
    this.subject.next({ projectId, event });
  }

  /** Tells everybody, those too who begin to listen, whether what is made ahead stands still. */
  tellForeground(isBusy: boolean): void {
    this.foreground.next(isBusy);
  }

  /** A project's events and what everybody is told, with a sign of life every 15 s so that a dead connection is noticed. */
  of(projectId: string): Observable<{ data: object }> {
    const own = this.subject.pipe(
      filter((e) => e.projectId === projectId),
      map(({ event }) => event),
    );
    const [news, rest] = partition(own, ({ kind }) => kind === 'footage');
    // Of a thousand clips that are being prepared there is news without end, and their list is long.
    const seldom = news.pipe(throttleTime(NEWS_MS, undefined, { leading: true, trailing: true }));
    const told = merge(seldom, rest).pipe(map((event) => ({ data: event })));
    const everybody = this.foreground.pipe(
      distinctUntilChanged(),
      map((isBusy) => ({ data: { kind: 'foreground', isBusy } satisfies ServerEvent })),
    );
    return merge(told, everybody, interval(15_000).pipe(map(() => ({ data: { kind: 'alive' } }))));
  }
}
