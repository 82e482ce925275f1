import { TLSSocket } from 'node:tls';
import { buildConnector } from 'undici';
import type { AddressRules } from './addresses';
import type { FetchProblem, Handshake } from './problem';
import { webAddress } from './web-address';

/** A connection that is not made, or not kept, with why. */
class Refused extends Error {
  constructor(readonly problem: FetchProblem) {
    super(problem.reason);
  }
}

function portOf(address: { protocol: string; port: string }): number {
  if (address.port !== '') return Number(address.port);
  return address.protocol === 'https:' ? 443 : 80;
}

/** Says which certificate of a host is trusted although no authority vouches for it: its SHA-256 fingerprint. */
export type Trust = (host: string) => Promise<string | null>;

/** No certificate is trusted but by an authority. */
export const NO_TRUST: Trust = () => Promise.resolve(null);

/** Connects to the very address that was checked: the name is not looked up a second time. */
export function checkedConnector(rules: AddressRules, trust: Trust, timeout: number): buildConnector.connector {
  // A certificate is judged below, where one that is trusted by hand is known. No session is kept that would skip that.
  const connect = buildConnector({ timeout, rejectUnauthorized: false, maxCachedSessions: 0 });
  return (options, callback) => {
    const host = options.hostname;
    const broken = (error: unknown) => callback(error instanceof Error ? error : new Error(String(error)), null);
    const reach = async () => {
      const checked = await rules.check(host, portOf(options));
      if (!checked.ok) return callback(new Refused({ reason: checked.error, host }), null);
      connect({ ...options, hostname: checked.value, servername: options.servername ?? host }, (error, socket) => {
        if (error !== null) return callback(error, null);
        if (!(socket instanceof TLSSocket) || socket.authorized) return callback(null, socket);
        // Whether it is trusted by hand may not be to be known just now: then it is not.
        judgeCertificate(socket, hostOf(options), trust)
          .catch((failure: unknown) => (failure instanceof Error ? failure : new Error(String(failure))))
          .then((refused) => {
            if (refused === null) return callback(null, socket);
            socket.destroy();
            callback(refused, null);
          })
          .catch(broken);
      });
    };
    reach().catch(broken);
  };
}

const hostOf = ({ hostname, port, protocol }: buildConnector.Options) =>
  port === '' || portOf({ protocol, port: '' }) === Number(port) ? hostname : `${hostname}:${port}`;

async function judgeCertificate(socket: TLSSocket, host: string, trust: Trust): Promise<Refused | null> {
  const fingerprint = socket.getPeerCertificate().fingerprint256;
  if (fingerprint !== undefined && (await trust(host)) === fingerprint) return null;
  const detail = String(socket.authorizationError ?? 'unknown')
    .toLowerCase()
    .replaceAll('_', ' ');
  return new Refused({ reason: 'bad certificate', detail, host, fingerprint });
}

/** A failed connection as a stated problem. */
export function problemOf(error: unknown, address: string): FetchProblem {
  if (error instanceof Refused) return error.problem;
  const { code = '', message = '' } = error as { code?: string; message?: string };
  if (!/CERTIFICATE_REQUIRED/.test(code) && /CERT|SELF_SIGNED|UNABLE_TO_VERIFY|ERR_TLS/.test(code))
    return { reason: 'bad certificate', detail: code.toLowerCase().replaceAll('_', ' ') };
  const shaken = handshakeOf(code, message);
  if (shaken !== null) return { reason: 'no handshake', why: shaken };
  if (code === 'ENOTFOUND') return { reason: 'unknown host', host: webAddress(address)?.hostname ?? address };
  const words: Record<string, string> = {
    ECONNREFUSED: 'connection refused',
    ECONNRESET: 'connection broken off',
    UND_ERR_SOCKET: 'connection broken off',
    UND_ERR_CONNECT_TIMEOUT: 'no connection',
    EHOSTUNREACH: 'no way leads there',
    ENETUNREACH: 'no way leads there',
    EAI_AGAIN: 'its name could not be looked up just now',
    HPE_INVALID_CONSTANT: 'what it says is not http',
  };
  return { reason: 'no answer', detail: words[code] ?? (code || message).toLowerCase().slice(0, 80) };
}

/**
 * What broke a handshake, by the codes of OpenSSL (`man ERR_GET_REASON`) as Node passes them on; null for any other
 * failure.
 */
function handshakeOf(code: string, message: string): Handshake | null {
  if (/WRONG_VERSION_NUMBER|HTTP_REQUEST|PACKET_LENGTH_TOO_LONG|RECORD_LAYER_FAILURE/.test(code))
    return 'not encrypted';
  if (/UNSUPPORTED_PROTOCOL|PROTOCOL_VERSION|VERSION_TOO_LOW|DH_KEY_TOO_SMALL|NO_SHARED_CIPHER|LEGACY/.test(code))
    return 'outdated';
  if (/UNRECOGNIZED_NAME/.test(code)) return 'another name';
  if (/CERTIFICATE_REQUIRED|PEER_DID_NOT_RETURN/.test(code)) return 'wants a certificate';
  return /^ERR_SSL|^EPROTO/.test(code) || /before secure TLS connection/.test(message) ? 'broken off' : null;
}
