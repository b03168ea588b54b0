import type { FieldId } from '../fields';
import type { Problem, Span } from '../problem';
import { problem } from '../problem';
import type { Expression } from './expression';
import { nodesOf, operandsOf, sizeOf } from './expression';

/** An expression that comes to more operations than this is refused: functions that are made of others multiply. */
const MOST_WRITTEN_OUT = 50_000;

/** Operations all expressions of a definition may come to. Checking and planning them takes time in proportion. */
const MOST_OPERATIONS = 10_000;

/**
 * Operations that may stand on one another, through calculated fields and steps. Engines take time and depth with the
 * square of it: measured, some seconds at twice this, and one of them ends at a depth of 1 000.
 */
const MOST_STANDING = 400;

/**
 * Fields that may stand on one another. Each level is a select of its own around all fields below; engines take time with
 * more than the square of it: measured, some tenths of a second at this, half a minute at four times this.
 */
const MOST_LEVELS = 100;

/** So many characters cost as much to read as one operation costs to check. */
const CHARACTERS_AN_OPERATION = 10;

/** What the expressions of one definition may still come to while it is checked. */
export class Budget {
  private left = MOST_OPERATIONS;
  private readonly levels = new Map<FieldId, number>();
  private readonly floors = new Map<FieldId, number>();

  /** Before a text is read; with the problem of it when nothing is left to read it with. */
  read(source: string): Problem | undefined {
    this.left -= Math.ceil(source.length / CHARACTERS_AN_OPERATION);
    return this.left < 0 ? tooLarge(spanOf(source)) : undefined;
  }

  /** Counts a checked expression; with the problem of it when it is too much. */
  check(source: string, expression: Expression): Problem | undefined {
    this.left -= nodesOf(expression).length;
    if (this.left < 0) return tooLarge(spanOf(source));
    if (this.floorOf(expression) > MOST_LEVELS) return tooManyLevels(spanOf(source));
    return this.levelOf(expression) > MOST_STANDING ? tooDeep(spanOf(source)) : undefined;
  }

  /** From here on a field stands on what its expression stands on. */
  makes(field: FieldId, expression: Expression): void {
    this.levels.set(field, this.levelOf(expression));
    this.floors.set(field, this.floorOf(expression));
  }

  /** One above the highest field it uses. */
  private floorOf(expression: Expression): number {
    return nodesOf(expression).reduce((most, each) => Math.max(most, each.op === 'field' ? (this.floors.get(each.id) ?? 0) : 0), 0) + 1;
  }

  private levelOf(root: Expression): number {
    const levels = new Map<Expression, number>();
    for (const node of nodesOf(root)) {
      const below = operandsOf(node).reduce((most, each) => Math.max(most, levels.get(each) ?? 0), 0);
      levels.set(node, node.op === 'field' ? (this.levels.get(node.id) ?? 0) : below + 1);
    }
    return levels.get(root) ?? 0;
  }
}

/** The problem of an expression that is too much by itself. */
export function tooManyOperations(source: string, expression: Expression): Problem | undefined {
  if (sizeOf(expression) <= MOST_WRITTEN_OUT) return undefined;
  const position = spanOf(source);
  return problem('expression-too-large', 'This expression comes to too many operations.', { position }, 'several calculated fields');
}

const spanOf = (source: string): Span => ({ from: 0, to: source.length });

const tooLarge = (position: Span): Problem =>
  problem(
    'definition-too-large',
    `The expressions of this dataset come to more than ${MOST_OPERATIONS} operations.`,
    { position },
    'fewer or shorter ones',
  );

const tooDeep = (position: Span): Problem =>
  problem(
    'expression-too-deep',
    `More than ${MOST_STANDING} operations stand on one another here, through the calculated fields it uses.`,
    { position },
    'fields that build on fewer others',
  );

const tooManyLevels = (position: Span): Problem =>
  problem(
    'fields-too-deep',
    `More than ${MOST_LEVELS} calculated fields stand on one another here.`,
    { position },
    'fields that build on fewer others',
  );
