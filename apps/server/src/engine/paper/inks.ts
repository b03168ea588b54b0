import type { MarkLook } from '@cendra/core';

/** The colours of marks on paper, which is light. */
export const INKS: Readonly<Partial<Record<MarkLook, string>>> = { good: '#3c6a4a', poor: '#9e2a2b', faint: '#77736a' };
