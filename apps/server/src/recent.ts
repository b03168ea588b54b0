/** What was used last, up to a total weight; what was used longest ago goes first. */
export class Recent<V> {
  private readonly kept = new Map<string, { readonly value: V; readonly weight: number }>();
  private total = 0;

  constructor(private readonly most: number) {}

  get(key: string): V | undefined {
    const known = this.kept.get(key);
    if (!known) return undefined;
    this.kept.delete(key);
    this.kept.set(key, known);
    return known.value;
  }

  put(key: string, value: V, weight: number): void {
    this.drop(key);
    this.kept.set(key, { value, weight });
    this.total += weight;
    for (const oldest of this.kept.keys()) {
      if (this.total <= this.most) break;
      this.drop(oldest);
    }
  }

  private drop(key: string): void {
    const known = this.kept.get(key);
    if (!known) return;
    this.kept.delete(key);
    this.total -= known.weight;
  }
}
