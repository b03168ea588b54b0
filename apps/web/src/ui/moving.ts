import type { KeyboardEvent } from 'react';
import { useState } from 'react';

const MOVING = new Set(['ArrowDown', 'ArrowUp', 'PageDown', 'PageUp', 'Home', 'End']);

/** Whether the list below an input is open. */
export const listIsOpen = (input: HTMLInputElement) => input.getAttribute('aria-expanded') === 'true';

/** Opens the list below an input as its key opens it; there is no other way from outside. */
export const openList = (input: HTMLInputElement) => sendKey(input, 'ArrowDown');

/** Closes it, likewise; what is typed has to be kept before. */
export const closeList = (input: HTMLInputElement) => sendKey(input, 'Escape');

function sendKey(input: HTMLInputElement, key: string): void {
  input.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
}

/** Opening a list writes the text anew and loses what is selected, so that is done behind it, unless typing has begun. */
export function selectSoon(input: HTMLInputElement, begun: () => boolean): void {
  setTimeout(() => {
    if (document.activeElement === input && !begun()) input.select();
  }, 30);
}

interface Moving {
  /** One has moved to an entry of the list: only then do Enter and Tab take it. */
  readonly moved: boolean;
  /** What was moved to is forgotten, because something else is typed or the list was closed. */
  readonly stay: () => void;
  readonly onKeyDownCapture: (event: KeyboardEvent<HTMLInputElement>) => void;
  /** To be called with every key, before what else it does; gives whether it moves. */
  readonly onKey: (event: KeyboardEvent<HTMLInputElement>) => boolean;
}

/**
 * Moving about the list below a slot. The list itself counts its first entry for moved to, and takes it by Enter and Tab;
 * here what is typed is what is meant. Where the first entry is that (`meant`), the first arrow goes on to the second one.
 */
export function useMoving(meant: boolean): Moving {
  const [moved, setMoved] = useState(false);
  return {
    moved,
    stay: () => setMoved(false),
    // What is typed is kept by leaving.
    onKeyDownCapture: (event) => event.key === 'Tab' && !moved && event.stopPropagation(),
    onKey: (event) => {
      if (!MOVING.has(event.key) || !listIsOpen(event.currentTarget)) return false;
      if (!moved && !meant && event.key === 'ArrowDown') {
        event.preventDefault();
        sendKey(event.currentTarget, 'PageUp');
      }
      setMoved(true);
      return true;
    },
  };
}
