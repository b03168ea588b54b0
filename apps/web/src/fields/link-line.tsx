import type { SheetField, SheetProperty } from '@cendra/core';
import { keptLink, LINK_MOST, linkProblems, typedLink } from '@cendra/core';
import { api } from '../api';
import { TextSlot } from '../bench/slots';
import { tooLong } from '../ui/format';
import { ProblemLine } from '../ui/notice';

/** So many characters the slot shows. */
const FITS = 36;

interface LinkLineProps {
  readonly field: SheetField;
  readonly fields: readonly SheetField[];
  readonly locked: boolean;
  readonly say: (property: SheetProperty, to: unknown) => void;
}

/** Where the values of a field lead to: an address in which `{name}` stands for a field of the same row. */
export function LinkLine({ field, fields, locked, say }: LinkLineProps) {
  const { data } = api.useLinksAllowedQuery();
  const handed = fields.filter((each) => !each.forUseOnly);
  const kept = field.link;
  // What is wrong with its fields is told with the other findings of the field.
  const problems = kept === undefined || !data ? [] : linkProblems(kept, handed, data.beginnings);
  const astray = problems.filter((each) => each.code === 'link-not-allowed');
  return (
    <div>
      <p className="leading-7">
        A value leads to{' '}
        <TextSlot
          label="Address its values lead to"
          look="font-mono"
          value={kept === undefined ? '' : typedLink(kept, fields)}
          placeholder="nowhere"
          wrong={astray.length > 0}
          disabled={locked}
          refuses={(typed) => tooLong(keptLink(typed.trim(), handed), LINK_MOST)}
          onKeep={(typed) => {
            const link = keptLink(typed.trim(), handed);
            say('link', link === '' ? undefined : link);
          }}
        />
        {kept === undefined && data && data.beginnings.length > 0 && !locked && (
          <span className="text-ink-soft">
            {' '}
            such as {data.beginnings[0]}
            {'{'}
            {field.name}
            {'}'}
          </span>
        )}
      </p>
      {/* The slot is narrower than most addresses. */}
      {kept !== undefined && kept.length > FITS && <p className="font-mono text-meta break-all text-ink-soft">{typedLink(kept, fields)}</p>}
      {astray.map((each) => (
        <ProblemLine key={each.code} problem={each} />
      ))}
    </div>
  );
}
