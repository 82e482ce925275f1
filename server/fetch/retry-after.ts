const LONGEST_WAIT_SECONDS = 86_400;

/**
 * Seconds that a server asks to be left alone for (RFC 9110, 10.2.3); of a date, as far as it lies from the server's
 * own.
 */
export function retryAfter(header: string | null, date: string | null): number | null {
  if (header === null) return null;
  const apart = (Date.parse(header) - Date.parse(date ?? '')) / 1000;
  const seconds = /^\d{1,9}$/.test(header.trim()) ? Number(header) : apart;
  return Number.isNaN(seconds) ? null : Math.min(Math.max(0, Math.ceil(seconds)), LONGEST_WAIT_SECONDS);
}
