import { fetchFile } from '../src/proof/fetch-file';

const asked = fetch;
afterEach(() => {
  globalThis.fetch = asked;
});

const still = new AbortController().signal;

function answering(body: string, headers: Record<string, string>, status = 200): void {
  globalThis.fetch = () => Promise.resolve(new Response(body, { status, headers }));
}

test('a whole file comes with its name and type', async () => {
  answering('id\n1\n', {
    'content-length': '5',
    'content-type': 'text/csv',
    'content-disposition': "attachment; filename*=UTF-8''Yield%20of%202025.csv",
  });
  const told: number[] = [];
  const given = await fetchFile({ address: '/file' }, still, (bytes) => told.push(bytes));
  expect(given).toMatchObject({ name: 'Yield of 2025.csv' });
  expect('file' in given && (await given.file.text())).toBe('id\n1\n');
  expect(told).toEqual([0, 5]);
});

test('less than was announced is no file', async () => {
  answering('id\n', { 'content-length': '500' });
  expect(await fetchFile({ address: '/file' }, still, () => undefined)).toMatchObject({ problems: [{ code: 'take-away-broken' }] });
});

test('a stream that breaks is no file', async () => {
  const body = new ReadableStream<Uint8Array>({
    start: (stream) => {
      stream.enqueue(new TextEncoder().encode('id\n'));
    },
    pull: (stream) => stream.error(new Error('gone')),
  });
  globalThis.fetch = () => Promise.resolve(new Response(body, { headers: { 'content-length': '3' } }));
  expect(await fetchFile({ address: '/file' }, still, () => undefined)).toMatchObject({ problems: [{ code: 'take-away-broken' }] });
});

test('a refusal says why, and a server that does not answer is told', async () => {
  const problem = { code: 'disk-full', severity: 'error', message: 'There is no room left.', place: {} };
  answering(JSON.stringify({ problems: [problem] }), { 'content-type': 'application/problem+json' }, 507);
  expect(await fetchFile({ address: '/file' }, still, () => undefined)).toEqual({ status: 507, problems: [problem] });
  globalThis.fetch = () => Promise.reject(new TypeError('no connection'));
  expect(await fetchFile({ address: '/file' }, still, () => undefined)).toMatchObject({ problems: [{ code: 'server-silent' }] });
});

test('how far it is, is told a hundred times at most', async () => {
  const pieces = 5_000;
  let sent = 0;
  const body = new ReadableStream<Uint8Array>({
    pull: (stream) => (sent++ < pieces ? stream.enqueue(new Uint8Array(100)) : stream.close()),
  });
  globalThis.fetch = () => Promise.resolve(new Response(body, { headers: { 'content-length': String(pieces * 100) } }));
  let told = 0;
  await fetchFile({ address: '/file' }, still, () => told++);
  expect(told).toBeGreaterThan(50);
  expect(told).toBeLessThanOrEqual(101);
});
