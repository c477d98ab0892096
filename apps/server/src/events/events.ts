import type { ServerEvent } from '@idle-bend/core/api';
import { Injectable } from '@nestjs/common';
import { filter, map, merge, interval, Subject, type Observable } from 'rxjs';

@Injectable()
export class Events {
  private readonly subject = new Subject<{ projectId: string; event: ServerEvent }>();

  tell(projectId: string, event: ServerEvent): void {
    this.subject.next({ projectId, event });
  }

  /** A project's events, with a sign of life every 15 s so that a dead connection is noticed. */
  of(projectId: string): Observable<{ data: object }> {
    const own = this.subject.pipe(
      filter((e) => e.projectId === projectId),
      map(({ event }) => ({ data: event })),
    );
    return merge(own, interval(15_000).pipe(map(() => ({ data: { kind: 'alive' } }))));
  }
}
