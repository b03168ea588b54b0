import { readFileSync } from 'node:fs';

/** Watches a process's resident memory; `stop` gives the highest value seen, in MB. */
export function memoryOf(pid: number): { stop(): number } {
  let most = resident(pid);
  const timer = setInterval(() => (most = Math.max(most, resident(pid))), 50);
  return {
    stop: () => {
      clearInterval(timer);
      return Math.max(most, resident(pid));
    },
  };
}

function resident(pid: number): number {
  return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
}
