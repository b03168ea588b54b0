/** Whole numbers with thin gaps between thousands; works on text, so large counts stay exact. */
export function grouped(count: string | number | bigint): string {
  return String(count).replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f');
}
