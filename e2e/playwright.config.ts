import { defineConfig } from '@playwright/test';

/** The interface, driven as a person would, in Debian's Chromium. Each worker has a server of its own (see fixtures.ts). */
export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  globalSetup: './prepared-demo.ts',
  workers: 2,
  // Generous: a machine may be slow and shared, and the first test waits while the demo's proxies are made.
  timeout: 240_000,
  expect: { timeout: 40_000 },
  reporter: [['list']],
  outputDir: '../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: {
      executablePath: process.env['IDLE_BEND_CHROMIUM'] ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--no-first-run',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
