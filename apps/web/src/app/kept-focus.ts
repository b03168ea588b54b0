import { useEffect } from 'react';

/** What can take the focus without doing something by it: a slot one types into would open its list. */
const REACHED = 'button, a[href], [tabindex="0"]';
/** Parts of a page that stay while something in them goes. */
const PLACE = 'section, aside, header, main, [role="dialog"]';

interface Focused {
  readonly on: HTMLElement;
  readonly place: Element;
  /** What can be reached there, in the order of the page, and how much of it stands before the focus. */
  readonly reached: readonly HTMLElement[];
  readonly before: number;
}

function focused(on: HTMLElement): Focused | undefined {
  const place = on.closest(PLACE);
  if (!place) return undefined;
  const reached = Array.from(place.querySelectorAll<HTMLElement>(REACHED)).filter((each) => each !== on);
  const before = reached.filter((each) => on.compareDocumentPosition(each) & Node.DOCUMENT_POSITION_PRECEDING).length;
  return { on, place, reached, before };
}

/** The next thing behind that is still there, else the last one before. */
function nearest({ place, reached, before }: Focused): HTMLElement | undefined {
  const stays = (each: HTMLElement) => place.contains(each) && !each.matches(':disabled') && each.offsetParent !== null;
  return reached.slice(before).find(stays) ?? reached.slice(0, before).findLast(stays);
}

/**
 * What has the focus may go away by its own press, as a line that is removed. Where nothing else takes the focus then, it
 * goes to what stands nearest, and does not fall to the page. A page that is left altogether keeps it nowhere.
 */
export function useKeptFocus(): void {
  useEffect(() => {
    let last: Focused | undefined;
    const give = () => {
      const lost = last && !last.on.isConnected && document.activeElement === document.body;
      if (lost && last?.place.isConnected) nearest(last)?.focus({ preventScroll: true });
    };
    // An open menu stands in no place of its own: what it is of goes on having the focus.
    const remember = ({ target }: FocusEvent) => void (last = (target instanceof HTMLElement && focused(target)) || last);
    // Who leaves it for nothing wants it nowhere; what goes away has it until then.
    const left = ({ target }: FocusEvent) =>
      requestAnimationFrame(() => {
        if (last?.on === target && last.on.isConnected && document.activeElement === document.body) last = undefined;
      });
    // Menus and dialogs give the focus back by themselves, some of them only as the next picture is drawn.
    const watching = new MutationObserver(() => last && !last.on.isConnected && requestAnimationFrame(() => requestAnimationFrame(give)));
    document.addEventListener('focusin', remember);
    document.addEventListener('focusout', left);
    watching.observe(document.body, { childList: true, subtree: true });
    return () => {
      document.removeEventListener('focusin', remember);
      document.removeEventListener('focusout', left);
      watching.disconnect();
    };
  }, []);
}
