/** An expression as Cendra writes it, and how tightly it holds together. */
export interface Said {
  readonly text: string;
  readonly holds: Holds;
}

/** Loosest first, as the expression language reads its operators. */
export const HOLDS = { or: 1, and: 2, not: 3, compared: 4, sum: 5, product: 6, sign: 7, one: 8 } as const;
export type Holds = (typeof HOLDS)[keyof typeof HOLDS];

export const one = (text: string): Said => ({ text, holds: HOLDS.one });

/** The text where something that holds so tightly at least is wanted. */
export const within = (least: Holds, { text, holds }: Said): string => (holds < least ? `(${text})` : text);

/** Two operands with an operator between; the second one holds tighter where the operator reads from the left. */
export const between = (holds: Holds, left: Said, operator: string, right: Said): Said => ({
  text: `${within(holds, left)} ${operator} ${within((holds + 1) as Holds, right)}`,
  holds,
});

/** Operands of a predicate stand above comparisons. */
export const compared = (text: string): Said => ({ text, holds: HOLDS.compared });
export const operand = (said: Said): string => within(HOLDS.sum, said);

export const called = (name: string, ...operands: readonly Said[]): Said => one(`${name}(${operands.map(({ text }) => text).join(', ')})`);

export const quoted = (text: string): string => `'${text.replaceAll("'", "''")}'`;
