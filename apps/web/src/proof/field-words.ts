import type { SheetField } from '@cendra/core';

export interface FieldWords {
  /** How a field is called in a choice; '' for one that is not there. */
  of(id: string): string;
  field(word: string): SheetField | undefined;
}

/** Labels to choose fields by. Fields of one label are told apart by their names, those of one name as well by a number. */
export function fieldWords(fields: readonly SheetField[]): FieldWords {
  const words = new Map<string, SheetField>();
  for (const field of fields) {
    const shared = fields.some((each) => each.id !== field.id && each.label === field.label);
    const plain = shared ? `${field.label} (${field.name})` : field.label;
    let word = plain;
    for (let count = 2; words.has(word); count++) word = `${plain} ${count}`;
    words.set(word, field);
  }
  const byId = new Map([...words].map(([word, { id }]) => [id, word]));
  return { of: (id) => byId.get(id) ?? '', field: (word) => words.get(word) };
}
