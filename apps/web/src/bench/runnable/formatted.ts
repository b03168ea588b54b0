import type { SqlLanguage } from 'sql-formatter';
import { format } from 'sql-formatter';

/** The text laid out anew; one the library cannot read stays as it is. */
export function formatted(text: string, language: SqlLanguage = 'postgresql'): string {
  try {
    return format(text, { language, keywordCase: 'preserve', tabWidth: 2, paramTypes: { named: [':'] } });
  } catch {
    return text;
  }
}
