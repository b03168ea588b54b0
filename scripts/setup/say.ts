/** A step of set-up that failed: which, why, and what to do. */
export class SetupError extends Error {
  constructor(
    readonly step: string,
    readonly why: string,
    readonly todo: string,
  ) {
    super(`${step} failed: ${why}`);
  }
}

export function say(line: string): void {
  process.stdout.write(`${line}\n`);
}

/** Runs a script's main function; a SetupError is told in full, without a stack. */
export function main(work: () => Promise<number | void>): void {
  work().then(
    (code) => process.exit(code ?? 0),
    (error: unknown) => {
      if (error instanceof SetupError) process.stderr.write(`\n${error.message}\nWhat to do: ${error.todo}\n`);
      else process.stderr.write(`\n${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
      process.exit(1);
    },
  );
}
