import { isDay } from '../fields';
import type { Problem } from '../problem';
import { warning } from '../problem';
import { formatProblem } from './format';
import { linkProblems } from './link';
import { isReservedWord, isSafeName } from './names';
import type { SheetField } from './sheet';

/** What is unfit about the fields as they are handed over: their names for whoever builds on them, formats, and totals. */
export function sheetProblems(fields: readonly SheetField[]): readonly Problem[] {
  const handed = fields.filter((each) => !each.forUseOnly);
  const uses = new Map<string, number>();
  for (const { name } of handed) uses.set(name.toLowerCase(), (uses.get(name.toLowerCase()) ?? 0) + 1);
  return handed.flatMap((field) => [...nameProblems(field, uses.get(field.name.toLowerCase()) === 1), ...meaningProblems(field, fields)]);
}

function nameProblems({ id, name }: SheetField, alone: boolean): readonly Problem[] {
  const place = { field: id };
  if (!alone) return [warning('name-twice', `Two fields are handed over as ${name}.`, place, 'a name of its own for each')];
  if (!isSafeName(name))
    return [
      hint(
        'name-unsafe',
        `The name “${name}” has to be quoted or is cut elsewhere.`,
        place,
        'up to 63 letters without accents, digits and _',
      ),
    ];
  if (isReservedWord(name)) return [hint('name-reserved', `${name} is a reserved word of SQL.`, place, 'another name')];
  return [];
}

function meaningProblems(
  { id, type, name, format, role, addsUp, lastBy, link }: SheetField,
  fields: readonly SheetField[],
): readonly Problem[] {
  const place = { field: id };
  const unsuited = format && formatProblem(type, format);
  const date = fields.find((each) => each.id === lastBy);
  const undated =
    role === 'measure' && addsUp === 'over everything but dates, then last' && !(date && isDay(date.type) && !date.forUseOnly);
  const astray =
    link === undefined
      ? []
      : linkProblems(
          link,
          fields.filter((each) => !each.forUseOnly),
        ).map((each) => ({ ...each, severity: 'warning' as const, place }));
  return [
    ...astray,
    ...(unsuited ? [{ ...unsuited, message: `The format of ${name} does not fit: ${unsuited.message}`, place }] : []),
    ...(undated
      ? [
          warning(
            'last-by-missing',
            `${name} takes its last value, and no date says which is last.`,
            place,
            'a date field that is handed over',
          ),
        ]
      : []),
  ];
}

const hint = (...given: Parameters<typeof warning>): Problem => ({ ...warning(...given), severity: 'hint' });
