import type { Problem, SheetField } from '@cendra/core';
import { keptLink, LINK_MOST, linkProblems, typedLink } from '@cendra/core';
import { api } from '../api';
import { TextSlot } from '../bench/slots';
import { tooLong } from '../ui/format';

interface LinkSlotProps {
  readonly label: string;
  readonly link: string | undefined;
  readonly fields: readonly SheetField[];
  /** The field an example is made with. */
  readonly example: SheetField | undefined;
  readonly locked: boolean;
  readonly onKeep: (link: string | undefined) => void;
}

/** An address in which `{name}` stands for a field of the same row. */
export function LinkSlot({ label, link, fields, example, locked, onKeep }: LinkSlotProps) {
  const { data } = api.useLinksAllowedQuery();
  const handed = fields.filter((each) => !each.forUseOnly);
  return (
    <>
      <TextSlot
        label={label}
        look="font-mono"
        value={link === undefined ? '' : typedLink(link, fields)}
        placeholder="nowhere"
        wrong={useAstray(link, fields).length > 0}
        disabled={locked}
        refuses={(typed) => tooLong(keptLink(typed.trim(), handed), LINK_MOST)}
        onKeep={(typed) => onKeep(keptLink(typed.trim(), handed) || undefined)}
      />
      {link === undefined && example && data && data.beginnings.length > 0 && !locked && (
        <span className="text-ink-soft">
          {' '}
          such as {data.beginnings[0]}
          {'{'}
          {example.name}
          {'}'}
        </span>
      )}
    </>
  );
}

/** What is wrong with where a link leads to; what is wrong with its fields is told with the other findings. */
export function useAstray(link: string | undefined, fields: readonly SheetField[]): readonly Problem[] {
  const { data } = api.useLinksAllowedQuery();
  const handed = fields.filter((each) => !each.forUseOnly);
  const problems = link === undefined || !data ? [] : linkProblems(link, handed, data.beginnings);
  return problems.filter((each) => each.code === 'link-not-allowed');
}
