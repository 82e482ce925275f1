import { spawn } from 'node:child_process';
import { chownSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { Builder, type WebDriver } from 'selenium-webdriver';
import { Options } from 'selenium-webdriver/chrome.js';
import { anyPort } from './ports';
import { stopChild } from './processes';
import { unprivileged } from './unprivileged';

/** A headless Chromium, driven. */
export interface Browser {
  driver: WebDriver;
  close: () => Promise<void>;
}

/** How the window is to be. */
export interface Look {
  width: number;
  height: number;
  dark?: boolean;
}

const TRIES = 100;

/** Starts ChromeDriver and a headless Chromium, as root under an unprivileged user, with nothing of an earlier one. */
export async function openBrowser(look: Look): Promise<Browser> {
  const identity = unprivileged('nobody');
  const home = mkdtempSync(join(tmpdir(), 'shrike-browser-'));
  if (identity !== null) chownSync(home, identity.uid, identity.gid);
  const port = await anyPort();
  const service = spawn('/usr/bin/chromedriver', [`--port=${port}`, '--log-level=SEVERE'], {
    cwd: home,
    env: { PATH: process.env.PATH, HOME: home, TMPDIR: home, LANG: 'en_GB.UTF-8', TZ: 'Europe/London' },
    stdio: 'ignore',
    ...identity,
  });
  const close = async () => {
    await stopChild(service);
    rmSync(home, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
  };
  try {
    await untilReady(`http://127.0.0.1:${port}/status`);
    const driver = await new Builder()
      .forBrowser('chrome')
      .usingServer(`http://127.0.0.1:${port}`)
      .setChromeOptions(optionsFor(look, home))
      .build();
    return {
      driver,
      close: () =>
        driver
          .quit()
          .catch(() => undefined)
          .then(close),
    };
  } catch (error) {
    await close();
    throw error;
  }
}

function optionsFor(look: Look, home: string): Options {
  const options = new Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments(
    '--headless=new',
    '--no-sandbox', // our own pages only; inside containers the sandbox has no user namespaces to work with
    '--disable-gpu',
    '--disable-dev-shm-usage',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--force-color-profile=srgb',
    '--hide-scrollbars',
    '--lang=en-GB',
    `--user-data-dir=${join(home, 'profile')}`,
    `--window-size=${look.width},${look.height}`,
    ...(look.dark ? ['--force-dark-mode', '--blink-settings=preferredColorScheme=0'] : []),
  );
  return options;
}

/** Gives the page itself a size: a window is never narrower than 500 px, and has a head of its own. */
export async function fitTo(driver: WebDriver, { width, height }: Look): Promise<void> {
  const chromium = driver as WebDriver & { sendDevToolsCommand: (name: string, words: object) => Promise<void> };
  await chromium.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width,
    height,
    deviceScaleFactor: 1,
    mobile: false,
  });
}

async function untilReady(url: string): Promise<void> {
  for (let tries = 0; tries < TRIES; tries += 1) {
    const answer = await fetch(url).catch(() => null);
    if (answer?.ok) return;
    await sleep(100);
  }
  throw new Error('ChromeDriver did not start.');
}
