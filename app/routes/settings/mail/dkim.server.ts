import { createPublicKey } from 'node:crypto';

/**
 * What a domain's name server says of a key, so that others can check what it signed (RFC 6376, 3.6.1; RFC 8463 for
 * Ed25519).
 */
export function dkimRecord(pem: string): string {
  const key = createPublicKey(pem);
  const spki = key.export({ type: 'spki', format: 'der' });
  const isEdwards = key.asymmetricKeyType === 'ed25519';
  // Of an Ed25519 key the bare 32 bytes at its end.
  return `v=DKIM1; k=${isEdwards ? 'ed25519' : 'rsa'}; p=${(isEdwards ? spki.subarray(-32) : spki).toString('base64')}`;
}
