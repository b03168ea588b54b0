import { Injectable } from '@nestjs/common';
import { Subject } from 'rxjs';
import type { Observable } from 'rxjs';
import { defer, filter, finalize, map } from 'rxjs';

/** Something that changed. Whoever listens is asked again at that moment whether they may know it. */
export interface CendraEvent {
  readonly kind: 'run' | 'dataset' | 'source';
  readonly body: Readonly<Record<string, unknown>>;
  /** The only person it is for; everybody signed in when absent. */
  readonly person?: string;
}

/** An event as it reaches a listener: `text` is what goes out. */
export type Heard = Pick<CendraEvent, 'kind' | 'body'> & { readonly text: string };

/** In characters. */
const MOST_SAID = 16_000;

@Injectable()
export class EventsService {
  private listening = 0;
  private readonly all = new Subject<CendraEvent & { readonly text: string }>();

  /** What is more than a few facts is only said to be there: whoever wants it asks. Written out once for all who listen. */
  tell(event: CendraEvent): void {
    const text = JSON.stringify(event.body);
    const small = text.length > MOST_SAID ? JSON.stringify({ id: event.body.id, again: true }) : text;
    this.all.next({ ...event, text: small });
  }

  /** Browsers that listen. */
  get listeners(): number {
    return this.listening;
  }

  for(person: string): Observable<Heard> {
    return defer(() => {
      this.listening++;
      return this.all;
    }).pipe(
      finalize(() => this.listening--),
      filter((event) => event.person === undefined || event.person === person),
      map(({ kind, body, text }) => ({ kind, body, text })),
    );
  }
}
