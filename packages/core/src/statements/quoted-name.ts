/** A name as SQL texts have it, whatever it holds. */
export const quotedName = (name: string): string => `"${name.replaceAll('"', '""')}"`;
