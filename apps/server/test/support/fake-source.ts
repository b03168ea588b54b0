import type { Server, Socket } from 'node:net';
import { createServer } from 'node:net';

/** What speaks like PostgreSQL as far as Cendra asks, and says what a test wants it to say. */
export interface FakeSource {
  readonly port: number;
  stop(): void;
}

export interface Says {
  /** In place of accepting the sign-in. */
  readonly signIn?: Buffer;
  /** To opening a transaction; nothing at all when null. */
  readonly begin?: Buffer | null;
  /** To a statement of the extended protocol. */
  readonly execute?: Buffer;
  /** To a statement of the simple protocol that is not `begin`. */
  readonly query?: Buffer;
  /** Cuts what is said to a statement into chunks that arrive one by one. */
  readonly chunks?: (bytes: Buffer) => readonly Buffer[];
  /** Closes the connection once a statement was answered. */
  readonly hangUp?: boolean;
}

/** One message: its kind and what it carries. */
export function message(kind: string, body: Buffer | string = ''): Buffer {
  const bytes = Buffer.from(body);
  const header = Buffer.alloc(5);
  header.write(kind, 0, 'latin1');
  header.writeInt32BE(bytes.length + 4, 1);
  return Buffer.concat([header, bytes]);
}

/** A message that announces another length than it has. */
export function lying(kind: string, length: number, body = ''): Buffer {
  const made = message(kind, body);
  made.writeInt32BE(length, 1);
  return made;
}

const int16 = (value: number) => Buffer.from([value >> 8, value & 255]);
const int32 = (value: number) => {
  const bytes = Buffer.alloc(4);
  bytes.writeInt32BE(value);
  return bytes;
};

export const ready = (state = 'T') => message('Z', state);
const complete = (tag: string) => message('C', `${tag}\0`);
const accepted = Buffer.concat([message('R', int32(0)), ready('I')]);
/** The start of rows by COPY, as CSV. */
export const copyOut = Buffer.concat([message('1'), message('2'), message('H', Buffer.concat([Buffer.from([0]), int16(0)]))]);
export const copyRow = (text: string) => message('d', text);
export const copyEnd = (rows: number) => Buffer.concat([message('c'), complete(`COPY ${rows}`), ready()]);

/** Rows of text columns. */
export function rowsOf(rows: readonly (readonly string[])[]): Buffer {
  const names = rows[0]?.map((_cell, index) => `c${index}`) ?? [];
  const described = names.map((name) =>
    Buffer.concat([Buffer.from(`${name}\0`), int32(0), int16(0), int32(25), int16(-1), int32(-1), int16(0)]),
  );
  const sent = rows.map((row) =>
    message('D', Buffer.concat([int16(row.length), ...row.flatMap((cell) => [int32(Buffer.byteLength(cell)), Buffer.from(cell)])])),
  );
  return Buffer.concat([message('T', Buffer.concat([int16(names.length), ...described])), ...sent, complete(`SELECT ${rows.length}`)]);
}

const begun = Buffer.concat([complete('BEGIN'), rowsOf([['4711', '2025-06-01 10:00:00.000000+00']]), ready()]);

export async function fakeSource(says: Says): Promise<FakeSource> {
  const sockets = new Set<Socket>();
  const server: Server = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined);
    socket.on('data', hearing(socket, says));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', () => resolve()));
  return {
    port: (server.address() as { port: number }).port,
    stop: () => {
      server.close();
      for (const each of sockets) each.destroy();
    },
  };
}

/** Takes apart what arrives; the first message, which has no kind, asks for the sign-in. */
function hearing(socket: Socket, says: Says): (chunk: Buffer) => void {
  let rest: Buffer = Buffer.alloc(0);
  let signedIn = false;
  return (chunk) => {
    rest = Buffer.concat([rest, chunk]);
    for (;;) {
      const head = signedIn ? 5 : 4;
      if (rest.length < head) return;
      const length = rest.readInt32BE(head - 4) + head - 4;
      if (rest.length < length) return;
      const heard = rest.subarray(0, length);
      rest = rest.subarray(length);
      if (signedIn) void answer(socket, heard, says);
      else socket.write(says.signIn ?? accepted);
      signedIn = true;
    }
  };
}

async function answer(socket: Socket, heard: Buffer, says: Says): Promise<void> {
  const kind = String.fromCharCode(heard[0] ?? 0);
  const begins = kind === 'Q' && heard.includes('begin');
  if (begins && says.begin === null) return;
  const said = begins
    ? (says.begin ?? begun)
    : kind === 'Q'
      ? (says.query ?? ready())
      : kind === 'S'
        ? (says.execute ?? ready())
        : undefined;
  if (!said) return;
  for (const part of says.chunks?.(said) ?? [said]) await new Promise<void>((resolve) => socket.write(part, () => setImmediate(resolve)));
  if (says.hangUp && !begins) socket.end();
}
