import type { SheetField, SheetProperty } from '@cendra/core';
import { typedLink } from '@cendra/core';
import { ProblemLine } from '../ui/notice';
import { LinkSlot, useAstray } from './link-slot';

/** So many characters the slot shows. */
const FITS = 36;

interface LinkLineProps {
  readonly field: SheetField;
  readonly fields: readonly SheetField[];
  readonly locked: boolean;
  readonly say: (property: SheetProperty, to: unknown) => void;
}

/** Where the values of a field lead to. */
export function LinkLine({ field, fields, locked, say }: LinkLineProps) {
  const { link } = field;
  return (
    <div>
      <p className="leading-7">
        A value leads to{' '}
        <LinkSlot
          label="Address its values lead to"
          link={link}
          fields={fields}
          example={field}
          locked={locked}
          onKeep={(to) => say('link', to)}
        />
      </p>
      {/* The slot is narrower than most addresses. */}
      {link !== undefined && link.length > FITS && <p className="font-mono text-meta break-all text-ink-soft">{typedLink(link, fields)}</p>}
      {useAstray(link, fields).map((each) => (
        <ProblemLine key={each.code} problem={each} />
      ))}
    </div>
  );
}
