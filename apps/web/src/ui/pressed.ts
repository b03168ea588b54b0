import type { MouseEvent, PointerEvent } from 'react';

/**
 * Pressed is chosen: where what lies under the mouse is replaced before it is let go, such as a list that grows shorter or
 * rows that arrive anew, there is no click. Fingers and keys choose by a click.
 */
export const pressed = (choose: () => void) => ({
  onPointerDown: ({ button, pointerType }: PointerEvent) => {
    if (button === 0 && pointerType === 'mouse') choose();
  },
  onClick: ({ nativeEvent }: MouseEvent) => {
    if ((nativeEvent as globalThis.PointerEvent).pointerType !== 'mouse') choose();
  },
});
