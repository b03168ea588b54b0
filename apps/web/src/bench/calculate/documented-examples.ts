import type { Form } from '@cendra/core';

export interface DocumentedExample {
  readonly written: string;
  readonly gives: string;
}

const LINE = /^\|\s*`(.+)`\s*\|\s*(.+?)\s*\|$/;

/** The examples in the tables of the documentation, which are tested against core and the engines. */
export function examplesIn(markdown: string): readonly DocumentedExample[] {
  return markdown.split('\n').flatMap((line) => {
    const [, written, gives] = LINE.exec(line) ?? [];
    return written === undefined || gives === undefined
      ? []
      : [{ written: written.replaceAll('\\|', '|'), gives: gives.replaceAll('`', '').replaceAll('\\|', '|') }];
  });
}

/** The first example of a form: one that begins as it is written, or else one it is part of. */
export function exampleOf({ name, signature }: Form, examples: readonly DocumentedExample[]): DocumentedExample | undefined {
  // The ways to trim begin alike, and are told apart by the word behind.
  const [begins = name] = /^trim\(\w+|^\w+\(/.exec(signature) ?? [];
  const word = /^\w[\w ]*$/.test(name) ? new RegExp(`(^|\\W)${name}(\\W|$)`) : undefined;
  return (
    examples.find((each) => each.written.startsWith(begins)) ??
    examples.find((each) => (word ? word.test(each.written) : each.written.includes(name)))
  );
}
