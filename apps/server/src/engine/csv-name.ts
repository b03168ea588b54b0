/** A column's name in the header of a CSV: one that a spreadsheet would take for a formula gets an apostrophe. */
export const csvName = (name: string): string => (/^[=+\-@\t\r]/.test(name) ? `'${name}` : name);
