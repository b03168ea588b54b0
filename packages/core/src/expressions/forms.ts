import { WINDOWS } from './check-windows';
import { FUNCTIONS } from './functions';
import { OTHER_WORDS } from './functions/other-words';

/** Something an analyst can write in an expression: a function, or a form of the language. */
export interface Form {
  readonly name: string;
  readonly signature: string;
  /** What it gives, in a sentence without a subject. */
  readonly says: string;
  /** What is written to begin it; `…` stands where something is to be filled in. */
  readonly skeleton: string;
  /** Words of other languages and databases it is known by. */
  readonly otherWords: readonly string[];
}

type Told = Pick<Form, 'name' | 'signature' | 'says' | 'skeleton'>;

const LANGUAGE: readonly Told[] = [
  {
    name: 'case',
    signature: 'case when condition then value else other end',
    says: 'the value of the first condition that is true',
    skeleton: 'case when … then … else … end',
  },
  { name: 'cast', signature: 'cast(value as type)', says: 'the value as another type, or null where it is none', skeleton: 'cast(… as …)' },
  { name: '||', signature: 'text || text', says: 'texts put one behind another, null if one is', skeleton: '… || …' },
  { name: 'interval', signature: "date + interval '3' day", says: 'a length of time to add to a date', skeleton: "… + interval '…' day" },
  { name: 'current_date', signature: 'current_date', says: 'the day of the run', skeleton: 'current_date' },
  { name: 'current_timestamp', signature: 'current_timestamp', says: 'the moment of the run', skeleton: 'current_timestamp' },
  { name: 'between', signature: 'value between least and greatest', says: 'whether it lies in a range', skeleton: '… between … and …' },
  { name: 'in', signature: 'value in (a, b, …)', says: 'whether it is one of several', skeleton: '… in (…)' },
  {
    name: 'like',
    signature: "text like '%a_'",
    says: 'whether a text has a shape: % stands for any run, _ for one character',
    skeleton: "… like '…'",
  },
  { name: 'is null', signature: 'value is null', says: 'whether there is no value', skeleton: '… is null' },
];

const first = (name: string) => name.split(' ')[0] ?? name;

/** Those written with one word begin alike, such as the ways to trim; they are all told, with their own signature. */
const CALLED: readonly Told[] = FUNCTIONS.map(({ name, signature, says }) => ({
  name: first(name),
  signature,
  says,
  skeleton: `${first(name)}(…)`,
}));

const WINDOWED: readonly Told[] = WINDOWS.map(({ name, signature, says }) => ({
  name,
  signature,
  says,
  skeleton: `${name}(${/\(\)/.test(signature) ? '' : '…'}) over (…)`,
}));

/** All that can be written, in the order of the documentation. */
export const FORMS: readonly Form[] = [...LANGUAGE, ...CALLED, ...WINDOWED].map((told) => ({ ...told, otherWords: otherWordsOf(told) }));

function otherWordsOf({ name }: Told): readonly string[] {
  const written = /^\w+$/.test(name) ? new RegExp(`(^|\\W)${name}(\\W|$)`) : undefined;
  return [...OTHER_WORDS].flatMap(([word, { write }]) => ((written ? written.test(write) : write.includes(name)) ? [word] : []));
}

/** Those that have all words of a search in their name, signature, description or another word for them; better ones first. */
export function findForms(sought: string): readonly Form[] {
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const ranked = FORMS.flatMap((form) => {
    const ranks = words.map((word) => rankOf(form, word));
    return ranks.includes(undefined) ? [] : [{ form, rank: Math.max(0, ...ranks.map((each) => each ?? 0)) }];
  });
  return ranked.toSorted((a, b) => a.rank - b.rank).map(({ form }) => form);
}

function rankOf({ name, signature, says, otherWords }: Form, word: string): number | undefined {
  if (name === word || otherWords.includes(word)) return 0;
  if (name.startsWith(word)) return 1;
  if (otherWords.some((each) => each.startsWith(word))) return 2;
  return `${name} ${signature} ${says}`.toLowerCase().includes(word) ? 3 : undefined;
}
