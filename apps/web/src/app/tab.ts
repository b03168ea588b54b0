/** Names this tab among those of the browser; it survives a reload, and ends with the tab. */
const KEY = 'cendra.tab';
const lockOf = (tab: string) => `cendra.tab.${tab}`;

let own: string | undefined;

export function tabId(): string {
  own ??= stored() ?? fresh();
  return own;
}

function stored(): string | undefined {
  try {
    return sessionStorage.getItem(KEY) ?? undefined;
  } catch {
    return undefined;
  }
}

function fresh(): string {
  const made = crypto.randomUUID().slice(0, 8);
  try {
    sessionStorage.setItem(KEY, made);
  } catch {
    // Without the storage the tab has a new name after a reload; what it had not sent is then taken over as another's.
  }
  return made;
}

/**
 * Holds the tab's name as long as it lives. A duplicated tab begins with the name of the one it was made from, which
 * is held already: it takes a new one.
 */
export async function claimTab(): Promise<void> {
  const claimed = await held(tabId());
  if (claimed) return;
  own = fresh();
  await held(own);
}

function held(tab: string): Promise<boolean> {
  return new Promise((resolve) => {
    void navigator.locks.request(lockOf(tab), { ifAvailable: true }, (lock) => {
      resolve(lock !== null);
      return lock === null ? undefined : new Promise(() => undefined);
    });
  });
}

/** Which of some tabs still live. */
export async function livingTabs(): Promise<ReadonlySet<string>> {
  const { held: locks = [] } = await navigator.locks.query();
  return new Set(locks.flatMap(({ name }) => (name?.startsWith(lockOf('')) ? [name.slice(lockOf('').length)] : [])));
}
