import type { Window } from '../../expressions';
import { LARGE_SUM, SUM_SCALE } from '../../expressions';
import { WINDOW_NAMES } from '../window-names';
import { duckdbTypeName } from './names';
import { finite } from './once';

/** A function over other rows, in the type the expression says. */
export function windowSql(node: Window, of: readonly string[], over: string): string {
  const [value = ''] = of;
  const name = WINDOW_NAMES[node.name];
  switch (node.name) {
    case 'countRows':
      return `count(*) over ${over}`;
    case 'lag':
    case 'lead':
      return `${name}(${[value, node.step ?? 1, ...of.slice(1)].join(', ')}) over ${over}`;
    case 'sum':
      return node.type.kind === 'float' ? floatingSum(value, over) : `cast(sum(${value}) over ${over} as ${duckdbTypeName(node.type)})`;
    default:
      return `${name}(${of.join(', ')}) over ${over}`;
  }
}

function floatingSum(value: string, over: string): string {
  const scaled = `sum(${value} * ${SUM_SCALE}) over ${over} / ${SUM_SCALE}`;
  return finite(`case when max(abs(${value})) over ${over} < ${LARGE_SUM} then sum(${value}) over ${over} else ${scaled} end`);
}
