import { LIMITS } from '../limits';
import { Recent } from '../recent';

/**
 * Pages of stored rows, which never change: each is made once for all who read it at that time, and kept while it is in
 * use. Whether somebody may read it is asked before.
 */
export class KeptPages {
  private readonly kept = new Recent<Uint8Array>(LIMITS.pagesKept.value);
  private readonly making = new Map<string, Promise<Uint8Array>>();

  async get(key: string, make: () => Promise<Uint8Array>): Promise<Uint8Array> {
    const known = this.kept.get(key);
    if (known) return known;
    const making =
      this.making.get(key) ??
      make()
        .then((page) => {
          this.kept.put(key, page, page.byteLength);
          return page;
        })
        .finally(() => this.making.delete(key));
    this.making.set(key, making);
    return making;
  }
}
