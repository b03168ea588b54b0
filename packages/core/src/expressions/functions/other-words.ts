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
  ...['year', 'quarter', 'month', 'week', 'weekday', 'day', 'hour', 'minute', 'second'].map((unit) => [unit, part(unit)] as const),
  ['concat', { write: "… || …, or join_text(', ', …, …)" }],
  ['concatenate', { write: "… || …, or join_text(', ', …, …)" }],
  ['if', CASE],
  ['switch', CASE],
  ['left', { write: 'substring(… from 1 for …)' }],
  ['right', { write: 'substring(… from … )' }],
  ['mid', { write: 'substring(… from … for …)' }],
  ['substr', { write: 'substring(… from … for …)' }],
  ['len', same('char_length', 'char_length(…)')],
  ['length', same('char_length', 'char_length(…)')],
  ['instr', { write: "position('…' in …)" }],
  ['find', { write: "position('…' in …)" }],
  ['today', { write: 'current_date' }],
  ['now', { write: 'current_timestamp' }],
  ['isnull', COALESCE],
  ['ifnull', COALESCE],
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
