import type { ReactNode } from 'react';
import { useMemo } from 'react';
import type { FieldType, Format, SheetField, SheetProperty } from '@cendra/core';
import { equal, isNumber, offeredFormats, usualFormat, writerOf } from '@cendra/core';
import { TextSlot } from '../bench/slots';

/** Where no value of the field is known: one of its type that shows what a pattern does, with thousands, decimals, one digit of day and month. */
function sampleOf(type: FieldType, pattern: string): string {
  const share = pattern.includes('%');
  if (type.kind === 'decimal') {
    const places = type.open ? 4 : Math.min(4, type.scale);
    const digits = share ? '0' : '17204'.slice(0, Math.max(1, Math.min(5, type.precision - type.scale)));
    return places === 0 ? digits : `${digits}.${'5725'.slice(0, places)}`;
  }
  if (type.kind === 'whole' || type.kind === 'float')
    return share ? { whole: '1', float: '0.5725' }[type.kind] : { whole: '12430', float: '17204.5725' }[type.kind];
  return (
    { date: '2025-04-03', datetime: '2025-04-03 07:05:00', instant: '2025-04-03 07:05:00+00', time: '07:05:00' }[type.kind as string] ?? ''
  );
}

interface FormatLinesProps {
  readonly field: SheetField;
  /** A value of the field, where one is known. */
  readonly own: string | undefined;
  readonly locked: boolean;
  readonly say: (property: SheetProperty, to: unknown) => void;
  /** What else can be done with the format. */
  readonly children?: ReactNode;
}

/** How values are written: chosen by what a sample looks like, or by a pattern of one's own. */
export function FormatLines({ field, own, locked, say, children }: FormatLinesProps) {
  const now = field.format ?? usualFormat(field.field);
  const write = (format: Format | undefined) =>
    writerOf({ type: field.type, role: field.role }, format)(own ?? sampleOf(field.type, format?.pattern ?? ''));
  const used = now?.pattern;
  const offers = useMemo(
    () =>
      toldApart(offeredFormats(field.type), used, (format) => writerOf(field.field, format)(own ?? sampleOf(field.type, format.pattern))),
    [field, own, used],
  );
  const set = (to: Format | undefined) => say('format', to && clean(to));
  const change = (part: Partial<Format>) => set({ pattern: now?.pattern ?? '', ...field.format, ...part });
  return (
    <div>
      <p className="leading-7">
        Written as{' '}
        <TextSlot
          label="Pattern"
          look="font-mono"
          value={now?.pattern ?? ''}
          placeholder="pattern"
          disabled={locked}
          onKeep={(pattern) => (pattern.trim() === '' ? set(undefined) : change({ pattern: pattern.trim() }))}
        />
        {isNumber(field.type) && (
          <>
            {' '}
            in{' '}
            <TextSlot
              label="Unit"
              value={field.format?.unit ?? ''}
              placeholder="no unit"
              disabled={locked}
              onKeep={(unit) => change({ unit: unit.trim() })}
            />
            {/¤/.test(now?.pattern ?? '') && (
              <>
                {' '}
                with ¤ as{' '}
                <TextSlot
                  label="Currency"
                  value={field.format?.currency ?? ''}
                  placeholder="EUR"
                  disabled={locked}
                  onKeep={(currency) => change({ currency: currency.trim() })}
                />
              </>
            )}
          </>
        )}
        : <span className="figures font-medium">{write(field.format)}</span>
      </p>
      <ul aria-label="Formats by sample" className="flex flex-wrap gap-1">
        {offers.map((offer) => {
          const chosen = equal(clean({ ...offer, unit: '' }), field.format && clean({ ...field.format, unit: '' }));
          return (
            <li key={offer.pattern}>
              <button
                type="button"
                disabled={locked}
                aria-pressed={chosen}
                title={offer.pattern}
                onClick={() => set({ ...offer, unit: field.format?.unit ?? '' })}
                className={`figures rounded border px-2 py-0.5 hover:border-ink-faint ${chosen ? 'border-ember' : ''}`}
              >
                {write(offer)}
              </button>
            </li>
          );
        })}
        {field.format && !locked && (
          <li>
            <button type="button" onClick={() => set(undefined)} className="px-2 py-0.5 text-ink-soft underline-offset-2 hover:underline">
              as usual
            </button>
          </li>
        )}
      </ul>
      {children}
    </div>
  );
}

/** What the sheet keeps of a format: without parts that say nothing. */
export function clean({ pattern, currency = '', unit = '' }: Format): Format {
  return { pattern, ...(currency === '' ? {} : { currency }), ...(unit === '' ? {} : { unit }) };
}

/** Formats whose samples look the same are one choice: the one in use, or else the plainer. */
function toldApart(offers: readonly Format[], used: string | undefined, write: (format: Format) => string): readonly Format[] {
  return offers.filter((each, index) => {
    const twins = offers.filter((other) => write(other) === write(each));
    return twins.some(({ pattern }) => pattern === used) ? each.pattern === used : offers.indexOf(twins[0] ?? each) === index;
  });
}
