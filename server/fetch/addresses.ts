import { BlockList, isIP } from 'node:net';
import { lookup as dnsLookup } from 'node:dns/promises';
import { fail, ok, type Result } from '#core/result';

/** Why an address may not be connected to. */
export type AddressProblem = 'unknown host' | 'private address';

/** Resolves a name to IP addresses; replaced in tests by a resolver that changes its mind. */
export type Resolver = (host: string) => Promise<string[]>;

const REFUSED_V4: [string, number][] = [
  ['0.0.0.0', 8], ['10.0.0.0', 8], ['100.64.0.0', 10], ['127.0.0.0', 8], ['169.254.0.0', 16], ['172.16.0.0', 12],
  ['192.0.0.0', 24], ['192.0.2.0', 24], ['192.88.99.0', 24], ['192.168.0.0', 16], ['198.18.0.0', 15],
  ['198.51.100.0', 24], ['203.0.113.0', 24], ['224.0.0.0', 4], ['240.0.0.0', 4],
]; // prettier-ignore
const REFUSED_V6: [string, number][] = [
  ['::', 96], ['64:ff9b::', 96], ['64:ff9b:1::', 48], ['100::', 64], ['2001::', 23], ['2001:db8::', 32],
  ['2002::', 16], ['fc00::', 7], ['fe80::', 10], ['fec0::', 10], ['ff00::', 8],
]; // prettier-ignore

const refused = new BlockList();
for (const [network, bits] of REFUSED_V4) refused.addSubnet(network, bits, 'ipv4');
for (const [network, bits] of REFUSED_V6) refused.addSubnet(network, bits, 'ipv6');

/**
 * True for an address that belongs to the public internet: not loopback, private, link-local, cloud metadata,
 * documentation, multicast or reserved (IANA special-purpose registries, RFC 6890), nor IPv4 dressed as IPv6.
 */
export function isPublic(address: string): boolean {
  const family = isIP(address);
  if (family === 0) return false;
  const mapped = /^::ffff:(?:0:)?(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  if (mapped !== undefined) return isPublic(mapped);
  if (family === 6 && /^::ffff:/i.test(address)) return false;
  return !refused.check(address, family === 4 ? 'ipv4' : 'ipv6');
}

/** Resolves a host as the system does; names under .localhost are loopback (RFC 6761, 6.3). */
const systemResolver: Resolver = async (host) => {
  if (host === 'localhost' || host.endsWith('.localhost')) return ['127.0.0.1'];
  const found = await dnsLookup(host, { all: true, verbatim: true });
  return found.map((each) => each.address);
};

/** Decides which address may be connected to for a host and port. */
export class AddressRules {
  constructor(
    private readonly admitted: string[],
    private readonly resolve: Resolver = systemResolver,
  ) {}

  /**
   * The address to connect to, checked after resolution. Every address the name has must be public, or the pair
   * `host:port` must be admitted by the configuration (`*.localhost:4610` admits every name under it).
   */
  async check(host: string, port: number): Promise<Result<string, AddressProblem>> {
    const name = host
      .replace(/^\[|\]$/g, '')
      .replace(/\.$/, '')
      .toLowerCase();
    const addresses = await this.#addressesOf(name);
    const [first] = addresses;
    if (first === undefined) return fail('unknown host');
    if (this.#isAdmitted(name, port) || addresses.every(isPublic)) return ok(first);
    return fail('private address');
  }

  async #addressesOf(name: string): Promise<string[]> {
    if (isIP(name) !== 0) return [name];
    try {
      return await this.resolve(name);
    } catch {
      return [];
    }
  }

  #isAdmitted(name: string, port: number): boolean {
    return this.admitted.some((rule) => {
      const [host = '', admittedPort] = rule.toLowerCase().split(/:(?=\d+$)/);
      const fits = host.startsWith('*.') ? name.endsWith(host.slice(1)) : name === host;
      return fits && Number(admittedPort) === port;
    });
  }
}
