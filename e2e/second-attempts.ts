import type { FullResult, Reporter, TestCase } from '@playwright/test/reporter';

/** Names at the end what passed only the second time, with the reason: each is a defect, though nothing is stopped for it. */
export default class SecondAttempts implements Reporter {
  private readonly tests = new Set<TestCase>();

  onTestEnd(test: TestCase): void {
    if (test.results.length > 1) this.tests.add(test);
  }

  onEnd(_result: FullResult): void {
    const flaky = [...this.tests].filter((test) => test.outcome() === 'flaky');
    if (flaky.length === 0) return;
    console.log(`\n${flaky.length} passed only the second time, which is a defect to mend:`);
    for (const test of flaky) console.log(`  ${test.titlePath().slice(2).join(' › ')}\n    ${reasonOf(test)}`);
  }
}

/** The first lines of what went wrong, without colours. */
function reasonOf(test: TestCase): string {
  const message = test.results[0]?.error?.message ?? 'no reason was given';
  // eslint-disable-next-line no-control-regex
  const lines = message.replace(/\u001b\[[\d;]*m/g, '').split('\n');
  return lines
    .filter((line) => line.trim() !== '')
    .slice(0, 4)
    .join('\n    ');
}
