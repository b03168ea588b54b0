import { readDayText } from '../src';

const read = (text: string, pattern?: string, language = 'en') =>
  readDayText(text, { language, ...(pattern === undefined ? {} : { pattern }) });

test.each([
  '2024-04-01',
  '2024-4-1',
  '2024/04/01',
  '20240401',
  '1 Apr 2024',
  '1 April 2024',
  '01 apr. 2024',
  '1st of April 2024',
  'Apr 1, 2024',
  'April 1 2024',
  '1.4.2024',
  '01.04.2024',
  '1. 4. 2024',
  '1. April 2024',
])('%s can only mean the first of April', (text) => {
  expect(read(text)).toEqual(['2024-04-01']);
});

test('a day above twelve tells which part is the month', () => {
  expect(read('30/9/2024')).toEqual(['2024-09-30']);
  expect(read('9/30/2024')).toEqual(['2024-09-30']);
  expect(read('30-09-2024')).toEqual(['2024-09-30']);
});

test('where both parts could be the month, both readings are given, unless a pattern says how days are written', () => {
  expect(read('3/4/2024')).toEqual(['2024-04-03', '2024-03-04']);
  expect(read('3/4/2024', 'dd/MM/yyyy')).toEqual(['2024-04-03']);
  expect(read('3/4/2024', 'M/d/yyyy')).toEqual(['2024-03-04']);
  expect(read('4/4/2024')).toEqual(['2024-04-04']);
});

test('months are read by the names of the dataset’s language and by English ones', () => {
  expect(read('5. März 2024', undefined, 'de')).toEqual(['2024-03-05']);
  expect(read('5 mars 2024', undefined, 'fr')).toEqual(['2024-03-05']);
  expect(read('5 de marzo de 2024', undefined, 'es')).toEqual(['2024-03-05']);
  expect(read('5 May 2024', undefined, 'de')).toEqual(['2024-05-05']);
});

test('a clock behind the day stays', () => {
  expect(read('1 Apr 2024 9:30')).toEqual(['2024-04-01 09:30']);
  expect(read('30.9.2024 14:05:06')).toEqual(['2024-09-30 14:05:06']);
});

test.each(['', '31.4.2024', '2023-02-29', '1 Ju 2024', '1 Ju. 2024', '5.2024', '13/13/2024', 'today', '1 Apr 24', '0.1.2024'])(
  '%j is no day in a known form',
  (text) => {
    expect(read(text)).toEqual([]);
  },
);
