import { createHash } from 'node:crypto';
import { connect } from 'node:tls';
import type { AddressRules } from './addresses';

/** A certificate as a host shows it, whoever vouches for it. */
export interface ShownCertificate {
  /** SHA-256 of the certificate, as `AB:CD:…`. */
  fingerprint: string;
  /** SHA-256 of its public key in base64, as pins are written (RFC 7469, 2.4). */
  key: string;
}

const SHAKE_MS = 8_000;

/**
 * Shakes hands with the host of an address, at the address that was checked, and sends nothing; null when none is
 * shown.
 */
export async function certificateShown(
  { hostname, port }: URL,
  rules: Pick<AddressRules, 'check'>,
): Promise<ShownCertificate | null> {
  const onPort = Number(port || 443);
  const checked = await rules.check(hostname, onPort);
  if (!checked.ok) return null;
  return new Promise((resolve) => {
    const socket = connect({
      host: checked.value,
      port: onPort,
      servername: hostname,
      rejectUnauthorized: false,
      timeout: SHAKE_MS,
    });
    const end = (shown: ShownCertificate | null) => {
      socket.destroy();
      resolve(shown);
    };
    socket.once('secureConnect', () => {
      const certificate = socket.getPeerX509Certificate();
      if (certificate === undefined) return end(null);
      const key = certificate.publicKey.export({ type: 'spki', format: 'der' });
      end({ fingerprint: certificate.fingerprint256, key: createHash('sha256').update(key).digest('base64') });
    });
    socket.once('timeout', () => end(null));
    socket.once('error', () => end(null));
  });
}
