import type { Instant } from '#core/when/interval';
import { TEXTS_DOMAIN } from '#standins/texts/taken';
import { SITES } from '#standins/world/world';
import { bundleOf, PROGRAMS } from './build';
import { startProgram, type Running } from './processes';

/** Where a whole Shrike with its stand-ins is to stand. */
export interface Places {
  databaseUrl: string;
  webPort: number;
  standinsPort: number;
  smtpPort: number;
  standinsFolder: string;
  logFolder: string;
  signInAs: string;
  /** The build of the web application, below the clone. */
  build: string;
  /** The moment at which the simulated world stands still; null where it moves with the clock. */
  stillAt: Instant | null;
  /** Whether programs run as they were bundled, which starts sooner; else as they stand. */
  bundled: boolean;
  /** What secrets are sealed with. */
  secretKey: string;
}

/** The configuration that admits the stand-ins and mails into the mail room. */
export function environmentOf(places: Places): Record<string, string> {
  return {
    SHRIKE_DATABASE_URL: places.databaseUrl,
    SHRIKE_PORT: String(places.webPort),
    SHRIKE_PUBLIC_URL: `http://localhost:${places.webPort}`,
    SHRIKE_ADMITTED: [...SITES, 'receiver'].map((site) => `${site}.localhost:${places.standinsPort}`).join(','),
    SHRIKE_SMTP_HOST: '127.0.0.1',
    SHRIKE_SMTP_PORT: String(places.smtpPort),
    SHRIKE_TEXT_GATEWAY: TEXTS_DOMAIN,
    SHRIKE_SIGN_IN_AS: places.signInAs,
    SHRIKE_BUILD: places.build,
    SHRIKE_SECRET_KEY: places.secretKey,
    // What the stage says of a site's rules is soon heeded.
    SHRIKE_ROBOTS_KEPT_MS: '3000',
  };
}

const programOf = (name: keyof typeof PROGRAMS, { bundled }: Places) => (bundled ? bundleOf(name) : PROGRAMS[name]);

/** Starts the stand-ins alone. */
export function startStandinsProgram(places: Places): Running {
  const still = places.stillAt === null ? [] : [String(places.stillAt)];
  return startProgram(
    'standins',
    programOf('standins', places),
    [
      String(places.standinsPort),
      String(places.smtpPort),
      places.standinsFolder,
      `http://localhost:${places.webPort}`,
      ...still,
    ],
    {},
    places.logFolder,
  );
}

/** Starts a worker. */
export function startWorkerProgram(places: Places, more: Record<string, string> = {}): Running {
  return startProgram(
    'worker',
    programOf('worker', places),
    [],
    { ...environmentOf(places), ...more },
    places.logFolder,
  );
}

/** Starts what mails the owners when nobody hears of anything. */
export function startApartProgram(places: Places): Running {
  return startProgram('apart', programOf('apart', places), [], environmentOf(places), places.logFolder);
}

/** Starts the web server. */
export function startWebProgram(places: Places, more: Record<string, string> = {}): Running {
  return startProgram('web', programOf('web', places), [], { ...environmentOf(places), ...more }, places.logFolder);
}
