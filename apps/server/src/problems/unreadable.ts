import type { NextFunction, Request, Response } from 'express';
import { refused } from './problem.exception';

/** Deeper than any definition: an expression is text, and everything else is flat. */
const DEEPEST = 200;
const HALF = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/;
/** No database keeps in a text the character with number 0, nor half a character. */
const cannotBeKept = (text: string) => text.includes('\0') || HALF.test(text);

const deep = () => refused(400, 'request-too-deep', 'The request is nested too deeply.', {}, `at most ${DEEPEST} levels`);
const unstorable = (pointer: string) =>
  refused(
    400,
    'text-unstorable',
    'A text holds a character that cannot be kept.',
    { pointer },
    'no character of number 0 and no half of a character',
  );

/** Refuses, before anybody takes it apart, what a request may not hold anywhere. */
export function refuseUnreadable(request: Request, _response: Response, next: NextFunction): void {
  const wrong = wrongIn(request.body as unknown) ?? (cannotBeKept(decoded(request.url)) ? unstorable('') : undefined);
  next(wrong);
}

/** Walks by hand: nesting that would overflow a stack is what is looked for. */
function wrongIn(body: unknown): Error | undefined {
  const left: { readonly value: unknown; readonly pointer: string; readonly depth: number }[] = [{ value: body, pointer: '', depth: 0 }];
  for (let next = left.pop(); next; next = left.pop()) {
    const { value, pointer, depth } = next;
    if (typeof value === 'string' && cannotBeKept(value)) return unstorable(pointer);
    if (typeof value !== 'object' || value === null) continue;
    if (depth === DEEPEST) return deep();
    for (const [name, each] of Object.entries(value)) {
      if (cannotBeKept(name)) return unstorable(pointer);
      if (typeof each === 'string' || typeof each === 'object') left.push({ value: each, pointer: `${pointer}/${name}`, depth: depth + 1 });
    }
  }
  return undefined;
}

function decoded(url: string): string {
  try {
    return decodeURIComponent(url);
  } catch {
    return url;
  }
}
