import { livingTabs, tabId } from '../app/tab';
import type { Batch } from './bench-slice';

/** What tabs of the same person that are gone had not sent of a dataset. It is taken out of the storage: whoever asks has it now. */
export async function takeOrphaned(owner: string, id: string): Promise<readonly Batch[]> {
  const living = await livingTabs();
  const prefix = `cendra.pending.${owner}.`;
  const keys = Array.from({ length: localStorage.length }, (_each, at) => localStorage.key(at) ?? '');
  return keys.flatMap((key): readonly Batch[] => {
    if (!key.startsWith(prefix) || !key.endsWith(`.${id}`)) return [];
    const tab = key.slice(prefix.length, -id.length - 1);
    if (tab === tabId() || living.has(tab)) return [];
    const kept = localStorage.getItem(key) ?? '[]';
    localStorage.removeItem(key);
    try {
      return JSON.parse(kept) as readonly Batch[];
    } catch {
      return [];
    }
  });
}
