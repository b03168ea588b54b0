/** Calls at once, then again after each pause in which it was wanted, so that what was said last is told. `stop` forgets what is waiting. */
export function atMostEvery(ms: number, call: () => void): { want(): void; stop(): void } {
  let pause: NodeJS.Timeout | undefined;
  let wanted = false;
  const tell = () => {
    wanted = false;
    pause = setTimeout(() => {
      pause = undefined;
      if (wanted) tell();
    }, ms);
    call();
  };
  return {
    want: () => {
      wanted = true;
      if (!pause) tell();
    },
    stop: () => clearTimeout(pause),
  };
}
