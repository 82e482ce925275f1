import { BlockList, isIP } from 'node:net';
import { lookup as dnsLookup } from 'node:dns/promises';
import { fail, ok, type Result } from '#core/result';
import { PUBLIC_V6, SPECIAL_V4, SPECIAL_V6 } from './special-addresses';

/** Why an address may not be connected to. */
export type AddressProblem = 'unknown host' | 'private address';

/** Resolves a name to IP addresses; replaced in tests by a resolver that changes its mind. */
export type Resolver = (host: string) => Promise<string[]>;

const special = new BlockList();
for (const [network, bits] of SPECIAL_V4) special.addSubnet(network, bits, 'ipv4');
for (const [network, bits] of SPECIAL_V6) special.addSubnet(network, bits, 'ipv6');
const allocated = new BlockList();
allocated.addSubnet(PUBLIC_V6[0], PUBLIC_V6[1], 'ipv6');

/**
 * True for an address that belongs to the public internet: not loopback, private, link-local, cloud metadata,
 * documentation, multicast or reserved, nor IPv4 dressed as IPv6 where that is not public.
 */
export function isPublic(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  if (mapped !== undefined) return isPublic(mapped);
  const family = isIP(address);
  if (family === 4) return !special.check(address, 'ipv4');
  return family === 6 && !address.includes('%') && allocated.check(address, 'ipv6') && !special.check(address, 'ipv6');
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
