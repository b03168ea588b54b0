import { open } from 'node:fs/promises';
import type { FileHandle } from 'node:fs/promises';
import type { Socket } from 'node:net';
import type { Client, Connection } from 'pg';
import type { CopyLimits, CopyOutcome, CopyProgress, SegmentSink } from '../connector';
import { streamOf } from './connect';

const COPY_DATA = 0x64; // 'd'
const READY = 0x5a; // 'Z'
const HEADER_BYTES = 5;
/** A segment ends with the rows that make it so large. */
const SEGMENT_BYTES = 8_000_000;
/** The first one is small: its rows can be looked at while the rest arrives. */
const FIRST_SEGMENT_BYTES = 1_000_000;
/** Rows gather in memory up to this before they are written. */
const BUFFER_BYTES = 1_000_000;
/** Bytes that wait to be written, and segments that wait to be taken, before the socket is paused. */
const PENDING_BYTES = 4_000_000;
const PENDING_SEGMENTS = 4;

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
    },
  };
  client.query(submittable as never);
  const how = await receiver.ended;
  if (how === 'ready' && (!failure || receiver.isCut)) return receiver.finished();
  // What came last may be half a row, and all of it is of a command that was not completed.
  await receiver.dropped();
  throw failure ?? new Error('Connection terminated unexpectedly');
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
    for (let at = 0; at < chunk.length;) {
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
      if (end > chunk.length) break;
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
    this.missing = header.readInt32BE(1) - 4;
    this.isRow = header[0] === COPY_DATA;
    if (this.isRow) this.kept = this.takes(this.missing);
    else this.pieces = [Buffer.from(header)];
    if (this.missing === 0) this.end();
    return at + part.length;
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

/** Cuts rows into segments, writes each to its file, and hands it on while the next one fills. */
class Segments {
  private buffer: Buffer = Buffer.allocUnsafe(BUFFER_BYTES);
  private readonly free: Buffer[] = [];
  private used = 0;
  private rows = 0;
  private bytes = 0;
  private longestRow = 0;
  /** Bytes of the row under way. */
  private partial = 0;
  private file: string | undefined;
  private handle: Promise<FileHandle> | undefined;
  private readonly handles = new Set<FileHandle>();
  private writing: Promise<void> = Promise.resolve();
  /** The last two that are being taken: so many are at once. */
  private takes: readonly Promise<void>[] = [];
  private first = 0;
  private queued = 0;
  private open = 0;
  private any = false;
  private dropping = false;
  private room = true;
  private failed: unknown;
  onRoom: (room: boolean) => void = ignore;

  constructor(
    private readonly sink: SegmentSink,
    private readonly stop: () => void,
  ) {}

  /** A part of a row. */
  write(part: Buffer): void {
    this.partial += part.length;
    this.append(part);
  }

  /** Whole rows, one behind the other. */
  rowsOf(rows: Buffer, count: number, longest: number): void {
    this.append(rows);
    this.count(count, rows.length, longest);
  }

  endRow(): void {
    this.count(1, this.partial, this.partial);
    this.partial = 0;
  }

  private append(bytes: Buffer): void {
    // Opened as soon as there is something to write: at the end of a few rows nobody waits for it.
    this.handleNow();
    if (bytes.length > BUFFER_BYTES - this.used) this.flush();
    if (bytes.length > BUFFER_BYTES) this.put(Buffer.from(bytes));
    else this.used += bytes.copy(this.buffer, this.used);
  }

  private count(rows: number, bytes: number, longest: number): void {
    this.rows += rows;
    this.bytes += bytes;
    if (longest > this.longestRow) this.longestRow = longest;
    if (this.bytes >= (this.any ? SEGMENT_BYTES : FIRST_SEGMENT_BYTES)) this.close();
  }

  /** Settles when nothing is written or taken any more; what has not been handed on is left as it is. */
  async drop(): Promise<void> {
    this.dropping = true;
    await this.settled();
  }

  /** Settles when all there is has been taken; rejects with what went wrong on the way. A statement without rows gives one empty segment. */
  async finish(): Promise<void> {
    if (this.rows > 0 || !this.any) this.close();
    await this.settled();
  }

  private async settled(): Promise<void> {
    await this.writing;
    await this.handle?.catch(ignore);
    await Promise.all(this.takes);
    for (const each of this.handles) await this.closed(each).catch(ignore);
    if (this.failed !== undefined) throw this.failed as Error;
  }

  private async closed(handle: FileHandle): Promise<void> {
    this.handles.delete(handle);
    await handle.close();
  }

  private flush(): void {
    if (this.used === 0) return;
    const full = this.buffer;
    const bytes = full.subarray(0, this.used);
    // What was written is filled again: making buffers anew keeps the garbage collector busy.
    this.buffer = this.free.pop() ?? Buffer.allocUnsafe(BUFFER_BYTES);
    this.used = 0;
    this.put(bytes, () => this.free.push(full));
  }

  private put(bytes: Buffer, written: () => void = ignore): void {
    const handle = this.handleNow();
    this.queued += bytes.length;
    this.then(async () => {
      await (await handle).write(bytes);
      this.queued -= bytes.length;
      written();
    });
  }

  private handleNow(): Promise<FileHandle> {
    if (this.handle) return this.handle;
    const file = this.sink.next();
    this.file = file;
    this.handle = this.writing.then(async () => {
      const opened = await open(file, 'wx', 0o600);
      this.handles.add(opened);
      return opened;
    });
    this.handle.catch(ignore);
    return this.handle;
  }

  private close(): void {
    this.flush();
    const handle = this.handleNow();
    const { rows, bytes, longestRow, first, file = '' } = this;
    this.first += rows;
    this.rows = this.bytes = this.longestRow = 0;
    this.file = this.handle = undefined;
    this.open++;
    this.any = true;
    this.then(async () => this.closed(await handle));
    const [before, last] = this.takes;
    const taken = Promise.all([last && before, this.writing]).then(async () => {
      if (this.failed === undefined && !this.dropping)
        await this.sink.take({ file, first, rows, bytes, longestRow }).catch((error: unknown) => this.fail(error));
      this.open--;
      this.look();
    });
    this.takes = [...this.takes, taken].slice(-2);
  }

  private then(work: () => Promise<void>): void {
    this.writing = this.writing
      .then(() => (this.failed === undefined && !this.dropping ? work() : undefined))
      .catch((error: unknown) => this.fail(error))
      .finally(() => this.look());
    this.look();
  }

  private fail(error: unknown): void {
    this.failed ??= error;
    this.stop();
  }

  /** What failed is not waited for: the rest is read away. */
  private look(): void {
    const room = this.failed !== undefined || this.dropping || (this.queued < PENDING_BYTES && this.open <= PENDING_SEGMENTS);
    if (room !== this.room) this.onRoom((this.room = room));
  }
}
