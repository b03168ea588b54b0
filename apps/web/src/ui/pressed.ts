import type { PointerEvent } from 'react';

/**
 * Pressed is chosen: while a list still grows shorter, the mouse would be let go over another place than it was pressed at,
 * which is no click.
 */
export const pressed = (choose: () => void) => ({
  onPointerDown: ({ button, pointerType }: PointerEvent) => {
    if (button === 0 && pointerType === 'mouse') choose();
  },
  onClick: choose,
});
