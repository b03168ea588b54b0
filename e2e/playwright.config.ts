import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  timeout: 240_000,
  expect: { timeout: 45_000 },
  workers: 2,
  fullyParallel: false,
  // What passes only the second time is named at the end, with the reason; it is a defect to mend, not a reason to stop.
  retries: 1,
  reporter: [['list'], ['./second-attempts.ts']],
  use: {
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: process.env.CENDRA_TEST_BROWSER ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-dev-shm-usage',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
});
