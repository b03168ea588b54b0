/** What is written here for something people know by another word. */
export interface OtherWord {
  readonly write: string;
  /** The name that can stand in its place as it is, with the same operands. */
  readonly instead?: string;
}

const same = (name: string, signature: string): OtherWord => ({ write: signature, instead: name });
const part = (unit: string): OtherWord => ({ write: `extract(${unit} from …)` });
const CASE: OtherWord = { write: 'case when … then … else … end' };
const COALESCE = same('coalesce', 'coalesce(…, …)');

/** Words of other languages, formula bars and databases, in lower case. */
export const OTHER_WORDS: ReadonlyMap<string, OtherWord> = new Map<string, OtherWord>([
  ...['year', 'quarter', 'month', 'day', 'hour', 'minute', 'second'].map((unit) => [unit, part(unit)] as const),
  ['week', part('week')],
  ['weekday', { write: "format_date(…, 'EEEE')" }],
  ['concat', { write: "… || …, or join_text(', ', …, …)" }],
  ['concatenate', { write: "… || …, or join_text(', ', …, …)" }],
  ['if', CASE],
  ['iif', CASE],
  ['iff', CASE],
  ['switch', CASE],
  ['decode', CASE],
  ['left', { write: 'substring(… from 1 for …)' }],
  ['right', { write: 'substring(… from … )' }],
  ['mid', { write: 'substring(… from … for …)' }],
  ['substr', { write: 'substring(… from … for …)' }],
  ['len', same('char_length', 'char_length(…)')],
  ['length', same('char_length', 'char_length(…)')],
  ['instr', { write: "position('…' in …)" }],
  ['find', { write: "position('…' in …)" }],
  ['ucase', same('upper', 'upper(…)')],
  ['lcase', same('lower', 'lower(…)')],
  ['today', { write: 'current_date' }],
  ['curdate', { write: 'current_date' }],
  ['getdate', { write: 'current_timestamp' }],
  ['now', { write: 'current_timestamp' }],
  ['isnull', COALESCE],
  ['ifnull', COALESCE],
  ['nvl', COALESCE],
  ['nz', COALESCE],
  ['ceil', same('ceiling', 'ceiling(…)')],
  ['int', same('floor', 'floor(…)')],
  ['trunc', { write: 'floor(…), or date_of(…) of a date-time' }],
  ['pow', same('power', 'power(…, …)')],
  ['datediff', { write: 'days_between(start, end)' }],
  ['dateadd', { write: "… + interval '1' day" }],
  ['format', { write: "format_number(…, '#,##0.00') or format_date(…, 'd MMM yyyy')" }],
  ['text', { write: "format_number(…, '#,##0.00') or format_date(…, 'd MMM yyyy')" }],
  ['to_char', { write: "format_number(…, '#,##0.00') or format_date(…, 'd MMM yyyy')" }],
  ['to_number', { write: 'cast(… as decimal(12,2)), or parse_number' }],
  ['to_date', { write: "parse_date(…, 'yyyy-MM-dd')" }],
  ['value', { write: 'cast(… as decimal(12,2))' }],
]);
