import type { Client } from 'pg';
import type { SaidMessage } from '../connector';

/** So many messages are kept until they are taken, each so long. */
const MESSAGES_MOST = 50;
const MESSAGE_MOST = 500;

/** What a connection's server says beside its answers: `notice`, `warning`. */
export class Said {
  private messages: readonly SaidMessage[];

  constructor(client: Client, before: readonly SaidMessage[] = []) {
    this.messages = before.slice(0, MESSAGES_MOST);
    client.on('notice', ({ severity = 'NOTICE', message = '' }) => {
      if (this.messages.length < MESSAGES_MOST)
        this.messages = [...this.messages, { severity: severity.toLowerCase(), text: message.slice(0, MESSAGE_MOST) }];
    });
  }

  /** What was said since it was taken last. */
  take(): readonly SaidMessage[] {
    const taken = this.messages;
    this.messages = [];
    return taken;
  }
}
