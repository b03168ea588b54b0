/** SQL's like: `%` any run, `_` one code point, compared by code point. */
export function likeMatches(text: string, pattern: string, escape: string | undefined): boolean {
  return matches([...text], patternSteps(pattern, escape));
}

type PatternStep = { readonly any: true } | { readonly any: false; readonly char: string | undefined };

function patternSteps(pattern: string, escape: string | undefined): readonly PatternStep[] {
  const chars = [...pattern];
  const steps: PatternStep[] = [];
  for (let at = 0; at < chars.length; at++) {
    const char = chars[at];
    if (char === escape) steps.push({ any: false, char: chars[++at] });
    else if (char === '%') steps.push({ any: true });
    else steps.push({ any: false, char: char === '_' ? undefined : char });
  }
  return steps;
}

/** Greedy matching that falls back to the last `%` only, which is enough for this pattern language. */
function matches(chars: readonly string[], steps: readonly PatternStep[]): boolean {
  let at = 0;
  let step = 0;
  let retryStep = -1;
  let retryAt = 0;
  while (at < chars.length) {
    const current = steps[step];
    if (current?.any) {
      retryStep = step++;
      retryAt = at;
    } else if (current && (current.char === undefined || current.char === chars[at])) {
      step++;
      at++;
    } else if (retryStep >= 0) {
      step = retryStep + 1;
      at = ++retryAt;
    } else return false;
  }
  return steps.slice(step).every((rest) => rest.any);
}
