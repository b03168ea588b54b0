import type { MouseEvent } from 'react';
import { OPTION_LINE } from './slots';

/**
 * How a line of a slot's list looks: marked where one has moved to it. Before that only what is typed may be marked
 * (`meant`), since Enter takes no other.
 */
export const offerLook = (moved: boolean) => (meant: boolean) =>
  `${OPTION_LINE} hover:bg-panel data-disabled:cursor-default ${moved ? 'data-focus:bg-panel' : meant ? 'bg-panel' : ''}`;

const still = (event: MouseEvent) => event.preventDefault();

/** For each such line: the pointer marks nothing by lying somewhere, because Enter means what is typed. */
export const pointed = { onPointerMove: still, onMouseMove: still, onPointerLeave: still, onMouseLeave: still };
