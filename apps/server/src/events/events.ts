import type { ServerEvent } from '@idle-bend/core/api';
import { Injectable } from '@nestjs/common';
import { BehaviorSubject, distinctUntilChanged, filter, map, merge, interval, Subject, type Observable } from 'rxjs';

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
      map(({ event }) => ({ data: event })),
    );
    const everybody = this.foreground.pipe(
      distinctUntilChanged(),
      map((isBusy) => ({ data: { kind: 'foreground', isBusy } satisfies ServerEvent })),
    );
    return merge(own, everybody, interval(15_000).pipe(map(() => ({ data: { kind: 'alive' } }))));
  }
}
