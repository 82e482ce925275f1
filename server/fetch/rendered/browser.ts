import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { chownSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type Browser } from 'playwright-core';

const BOUNDED = fileURLToPath(new URL('./bounded.sh', import.meta.url));
/** Of each of its processes; the largest pages of honest sites take a third of it. */
const MEMORY_KIB = 1_000_000;
const NOBODY = 65_534;

/** A running Chromium and what has to be cleared away after it. */
export interface RunningBrowser {
  browser: Browser;
  close: () => Promise<void>;
}

/**
 * Starts Debian's Chromium, headless and in its sandbox; started by root it runs as a user without rights. Nothing
 * leaves it but through the proxy: names are not resolved, loopback is no exception, WebRTC and QUIC have no way of
 * their own. A key that is given is trusted although no authority vouches for it (SHA-256 of its SPKI, base64), and no
 * other.
 */
export async function startBrowser(
  executable: string,
  proxy: string,
  trustedKey: string | null = null,
): Promise<RunningBrowser> {
  if (!existsSync(executable)) throw new Error(`there is no browser at ${executable}`);
  const root = process.getuid?.() === 0;
  const home = mkdtempSync(join(tmpdir(), 'shrike-render-'));
  if (root) chownSync(home, NOBODY, NOBODY);
  const browser = await chromium.launch({
    executablePath: BOUNDED,
    chromiumSandbox: true,
    handleSIGINT: false,
    handleSIGTERM: false,
    handleSIGHUP: false,
    env: {
      PATH: process.env.PATH ?? '/usr/bin:/bin',
      HOME: home,
      XDG_CONFIG_HOME: home,
      XDG_CACHE_HOME: home,
      LANG: 'en_GB.UTF-8',
      SHRIKE_BROWSER: executable,
      SHRIKE_BROWSER_MEMORY_KIB: String(MEMORY_KIB),
    },
    args: [
      `--proxy-server=${proxy}`,
      '--proxy-bypass-list=<-loopback>',
      '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1',
      '--force-webrtc-ip-handling-policy=disable_non_proxied_udp',
      '--webrtc-ip-handling-policy=disable_non_proxied_udp',
      '--disable-quic',
      '--disable-background-networking',
      '--disable-component-update',
      '--no-pings',
      '--disable-gpu',
      '--disable-dev-shm-usage',
      '--js-flags=--max-old-space-size=256',
      '--renderer-process-limit=4',
      ...(trustedKey === null ? [] : [`--ignore-certificate-errors-spki-list=${trustedKey}`]),
    ],
  });
  const close = async () => {
    await browser.close().catch(() => undefined);
    rmSync(home, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
  };
  return { browser, close };
}
