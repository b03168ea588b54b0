import type { Socket } from 'node:net';
import type { Client } from 'pg';
import { LIMITS } from '../../../limits';
import { refused } from '../../../problems';

/** Every message after the start has one byte of kind and four of length, which counts itself. */
export const HEADER_BYTES = 5;
const LENGTH_BYTES = 4;
/** PostgreSQL never sends more in one message. */
const MOST_BYTES = 0x4000_0000;

/** The bytes that follow a header, or undefined when no message has such a length. */
export function bytesBehind(length: number): number | undefined {
  return length >= LENGTH_BYTES && length <= MOST_BYTES ? length - LENGTH_BYTES : undefined;
}

export const garbled = () =>
  refused(502, 'source-garbled', 'What the source sent is not how PostgreSQL speaks.', {}, 'the address of a PostgreSQL server');

const tooLong = () =>
  refused(
    502,
    'source-answer-long',
    'The source sent a single answer that is longer than Cendra takes.',
    {},
    `at most ${LIMITS.answerBytes.value / 1e6} MB`,
  );

/**
 * Follows where messages begin and says when one announces a length that none has, or that is more than is kept: before
 * its bytes are. Chunks may end anywhere.
 */
export class MessageLengths {
  private readonly header = Buffer.alloc(HEADER_BYTES);
  private filled = 0;
  private missing = 0;

  constructor(private readonly most: number) {}

  /** Undefined while all is well. */
  wrongIn(chunk: Buffer): 'garbled' | 'too long' | undefined {
    for (let at = 0; at < chunk.length;) {
      if (this.missing > 0) {
        const passed = Math.min(this.missing, chunk.length - at);
        this.missing -= passed;
        at += passed;
        continue;
      }
      const copied = chunk.copy(this.header, this.filled, at, at + HEADER_BYTES - this.filled);
      this.filled += copied;
      at += copied;
      if (this.filled < HEADER_BYTES) return undefined;
      this.filled = 0;
      const missing = bytesBehind(this.header.readInt32BE(1));
      if (missing === undefined) return 'garbled';
      if (missing > this.most) return 'too long';
      this.missing = missing;
    }
    return undefined;
  }
}

interface Listening {
  attachListeners(stream: Socket): void;
}

/**
 * The driver keeps a message until all of it is there, however long it says it is, and raises where one is not made as it
 * should be, which nobody would catch. A connection that sends either is cut instead.
 */
export function guardAnswers(client: Client): void {
  const connection = (client as unknown as { connection: Listening }).connection;
  const attach = connection.attachListeners.bind(connection);
  connection.attachListeners = (stream) => {
    const lengths = new MessageLengths(LIMITS.answerBytes.value);
    const before = new Set(stream.listeners('data'));
    attach(stream);
    const driver = stream.listeners('data').filter((each) => !before.has(each)) as ((chunk: Buffer) => void)[];
    for (const each of driver) stream.off('data', each);
    stream.on('data', (chunk: Buffer) => {
      const wrong = lengths.wrongIn(chunk);
      if (wrong) return void stream.destroy(wrong === 'garbled' ? garbled() : tooLong());
      try {
        for (const each of driver) each(chunk);
      } catch {
        stream.destroy(garbled());
      }
    });
  };
}
