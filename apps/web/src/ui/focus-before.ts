/**
 * Gives the focus to what stands before a part of the page that goes away as one of its buttons is pressed: it would fall to
 * the page, and keys with it.
 */
export function focusBefore(part: Element | null): void {
  if (!part) return;
  const reached = Array.from(document.querySelectorAll<HTMLElement>('input, button, [tabindex="0"]')).filter(
    (each) => part.compareDocumentPosition(each) & Node.DOCUMENT_POSITION_PRECEDING && !each.contains(part) && each.offsetParent !== null,
  );
  reached.at(-1)?.focus();
}
