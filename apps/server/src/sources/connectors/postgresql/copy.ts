import type { Socket } from 'node:net';
import type { Client, Connection } from 'pg';
import { LIMITS } from '../../../limits';
import type { CopyLimits, CopyOutcome, CopyProgress, SegmentSink } from '../connector';
import { streamOf } from './connect';
import { bytesBehind, garbled, HEADER_BYTES } from './messages';
import { Segments } from './segments';

const COPY_DATA = 0x64; // 'd'
const READY = 0x5a; // 'Z'

/**
 * Runs `copy (…) to stdout` over the extended protocol (Parse, Bind, Execute), where the server refuses stacked
 * statements, and hands its rows on in segments while they arrive. While it runs, the messages that carry rows are taken
 * off the wire here; all others go on to the driver, so errors and the end of the command arrive as usual. One message
 * is one row of CSV.
 */
export async function copyInSegments(
  client: Client,
  text: string,
  sink: SegmentSink,
  limits: CopyLimits,
  onProgress: (progress: CopyProgress) => void,
  stop: () => void,
): Promise<CopyOutcome> {
  const receiver = new Receiver(streamOf(client), new Segments(sink, stop), limits, onProgress, stop);
  let failure: Error | undefined;
  const submittable = {
    submit(connection: Connection) {
      receiver.attach();
      const wire = connection as unknown as Wire;
      wire.parse({ name: '', text, types: [] }, true);
      wire.bind({ portal: '', statement: '', values: [], binary: false }, true);
      wire.execute({ portal: '', rows: 0 }, true);
      wire.sync();
      return null;
    },
    handleCommandComplete: ignore,
    handleRowDescription: ignore,
    handlePortalSuspended: ignore,
    handleEmptyQuery: ignore,
    handleReadyForQuery: ignore,
    // After an error the driver tells nothing more; the receiver itself sees the command's end.
    handleError(error: Error) {
      failure = error;
      receiver.refused();
    },
  };
  client.query(submittable as never);
  const how = await receiver.ended;
  if (how === 'ready' && (!failure || receiver.isCut)) return receiver.finished();
  // What came last may be half a row, and all of it is of a command that was not completed.
  await receiver.dropped();
  throw receiver.wrong ?? failure ?? new Error('Connection terminated unexpectedly');
}

const ignore = () => undefined;

/** The driver's own way of sending messages, which its types leave out. */
interface Wire {
  parse(message: object, more: boolean): void;
  bind(message: object, more: boolean): void;
  execute(message: object, more: boolean): void;
  sync(): void;
}

/** Takes messages apart as their bytes come. A row's bytes go on at once, however long it is, unless a limit is passed. */
class Receiver {
  private header: Buffer = Buffer.alloc(0);
  /** Bytes of the message under way that are still to come; undefined between messages. */
  private missing: number | undefined;
  private isRow = false;
  private kept = false;
  /** The pieces of a message that is not a row. */
  private pieces: Buffer[] = [];
  private rows = 0;
  private bytes = 0;
  private cut: CopyOutcome['cut'];
  /** Why the connection was cut, when what came made no sense. */
  wrong: Error | undefined;
  private driver: ((chunk: Buffer) => void)[] = [];
  private settle: (how: 'ready' | 'lost') => void = ignore;

  /** Settles when the command is over: the connection is ready for the next one, or lost. */
  readonly ended = new Promise<'ready' | 'lost'>((resolve) => (this.settle = resolve));

  constructor(
    private readonly stream: Socket,
    private readonly segments: Segments,
    private readonly limits: CopyLimits,
    private readonly onProgress: (progress: CopyProgress) => void,
    private readonly stop: () => void,
  ) {
    segments.onRoom = (room) => (room ? this.stream.resume() : this.stream.pause());
  }

  attach(): void {
    this.driver = this.stream.listeners('data') as ((chunk: Buffer) => void)[];
    this.stream.removeAllListeners('data');
    this.stream.on('data', this.onChunk);
    this.stream.once('close', this.onClose);
  }

  private readonly onClose = () => this.settle('lost');

  /** The driver gave it up. On a connection that was lost before it was sent nothing would ever arrive. */
  refused(): void {
    if (this.driver.length === 0) this.settle('lost');
  }

  get isCut(): boolean {
    return this.cut !== undefined;
  }

  /** Lets go of what came; rejects with what went wrong in taking it, which comes before the end of the command. */
  async dropped(): Promise<void> {
    this.detach();
    await this.segments.drop();
  }

  /** What came, once every segment is taken. */
  async finished(): Promise<CopyOutcome> {
    this.detach();
    await this.segments.finish();
    this.stream.resume();
    return { rows: this.rows, bytes: this.bytes, cut: this.cut };
  }

  private detach(): void {
    if (this.driver.length === 0) return;
    this.stream.off('data', this.onChunk);
    this.stream.off('close', this.onClose);
    for (const listener of this.driver) this.stream.on('data', listener);
    this.driver = [];
  }

  private readonly onChunk = (chunk: Buffer): void => {
    const before = this.rows;
    for (let at = 0; at < chunk.length && !this.wrong;) {
      at = this.wholeRows(chunk, at);
      if (at < chunk.length) at = this.missing === undefined ? this.begin(chunk, at) : this.goOn(chunk, at, this.missing);
    }
    if (this.rows > before) this.onProgress({ rows: this.rows, bytes: this.bytes });
  };

  /** Nearly all rows lie whole in one chunk: those are moved together in it, over their headers, and taken at once. */
  private wholeRows(chunk: Buffer, from: number): number {
    let at = from;
    if (this.missing !== undefined || this.header.length > 0) return at;
    let until = from;
    let longest = 0;
    const before = this.rows;
    while (at + HEADER_BYTES <= chunk.length && chunk[at] === COPY_DATA) {
      const begin = at + HEADER_BYTES;
      const end = at + 1 + chunk.readInt32BE(at + 1);
      // One that ends before it begins is looked at more closely by `begin`.
      if (end > chunk.length || end < begin) break;
      const length = end - begin;
      if (this.takes(length)) {
        chunk.copyWithin(until, begin, end);
        until += length;
        if (length > longest) longest = length;
        this.rows++;
      }
      at = end;
    }
    if (this.rows > before) this.segments.rowsOf(chunk.subarray(from, until), this.rows - before, longest);
    return at;
  }

  /** The head of a message, which may come in parts. */
  private begin(chunk: Buffer, at: number): number {
    const wanted = HEADER_BYTES - this.header.length;
    const part = chunk.subarray(at, at + wanted);
    const header = this.header.length === 0 ? part : Buffer.concat([this.header, part]);
    if (header.length < HEADER_BYTES) {
      this.header = Buffer.from(header);
      return at + part.length;
    }
    this.header = Buffer.alloc(0);
    this.isRow = header[0] === COPY_DATA;
    this.missing = bytesBehind(header.readInt32BE(1));
    if (this.missing === undefined || (!this.isRow && this.missing > LIMITS.answerBytes.value)) return this.breakOff(chunk);
    if (this.isRow) this.kept = this.takes(this.missing);
    else this.pieces = [Buffer.from(header)];
    if (this.missing === 0) this.end();
    return at + part.length;
  }

  /** What makes no sense is not read on. */
  private breakOff(chunk: Buffer): number {
    this.wrong = garbled();
    this.stream.destroy(this.wrong);
    return chunk.length;
  }

  private goOn(chunk: Buffer, at: number, missing: number): number {
    const part = chunk.subarray(at, at + missing);
    if (!this.isRow) this.pieces.push(part);
    else if (this.kept) this.segments.write(part);
    this.missing = missing - part.length;
    if (this.missing === 0) this.end();
    return at + part.length;
  }

  /** Whether a row may come: told by its length, before a byte of it is kept. */
  private takes(length: number): boolean {
    if (this.cut !== undefined) return false;
    if (this.rows >= this.limits.rows) return this.cutAt('rows');
    if (this.bytes + length > this.limits.bytes) return this.cutAt('bytes');
    this.bytes += length;
    return true;
  }

  private end(): void {
    this.missing = undefined;
    if (this.isRow) {
      if (!this.kept) return;
      this.rows++;
      this.segments.endRow();
      return;
    }
    const message = Buffer.concat(this.pieces);
    this.pieces = [];
    this.forward(message, message[0] === READY);
  }

  /** The rest of the rows is not read: the statement is cancelled at the source. */
  private cutAt(reason: 'rows' | 'bytes'): false {
    this.cut = reason;
    this.stop();
    return false;
  }

  private forward(message: Buffer, last: boolean): void {
    const listeners = this.driver;
    if (last) this.detach();
    for (const listener of listeners) listener(message);
    if (last) this.settle('ready');
  }
}
