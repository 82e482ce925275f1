// The address blocks that are not the public internet, after the IANA IPv4 and IPv6 Special-Purpose Address Registries
// (RFC 6890 and its successors, as of 2026-11-01), the multicast registries, and what of IPv6 is not allocated at all.
// Blocks that the registries call globally reachable, but that lead to relays and translators, are in it too: they
// would lead on to any address.

/** A block of addresses with what it is for. */
type Block = [network: string, bits: number, name: string];

export const SPECIAL_V4: Block[] = [
  ['0.0.0.0', 8, 'this network (RFC 791)'],
  ['10.0.0.0', 8, 'private use (RFC 1918)'],
  ['100.64.0.0', 10, 'shared address space (RFC 6598)'],
  ['127.0.0.0', 8, 'loopback (RFC 1122)'],
  ['169.254.0.0', 16, 'link local, cloud metadata (RFC 3927)'],
  ['172.16.0.0', 12, 'private use (RFC 1918)'],
  ['192.0.0.0', 24, 'IETF protocol assignments (RFC 6890)'],
  ['192.0.2.0', 24, 'documentation (RFC 5737)'],
  ['192.31.196.0', 24, 'AS112 (RFC 7535)'],
  ['192.52.193.0', 24, 'AMT relays (RFC 7450)'],
  ['192.88.99.0', 24, '6to4 relays, deprecated (RFC 7526)'],
  ['192.168.0.0', 16, 'private use (RFC 1918)'],
  ['192.175.48.0', 24, 'AS112 delegation (RFC 7534)'],
  ['198.18.0.0', 15, 'benchmarking (RFC 2544)'],
  ['198.51.100.0', 24, 'documentation (RFC 5737)'],
  ['203.0.113.0', 24, 'documentation (RFC 5737)'],
  ['224.0.0.0', 4, 'multicast (RFC 5771)'],
  ['240.0.0.0', 4, 'reserved, limited broadcast (RFC 1112, 919)'],
];

/**
 * The one block of IPv6 from which public addresses are given (RFC 4291, 2.4): loopback, mapped, local and multicast
 * lie outside.
 */
export const PUBLIC_V6: Block = ['2000::', 3, 'global unicast'];

export const SPECIAL_V6: Block[] = [
  ['2001::', 23, 'IETF protocol assignments, Teredo, benchmarking, ORCHID, drone remote ID (RFC 2928)'],
  ['2001:db8::', 32, 'documentation (RFC 3849)'],
  ['2002::', 16, '6to4 (RFC 3056)'],
  ['2620:4f:8000::', 48, 'AS112 delegation (RFC 7534)'],
  ['3fff::', 20, 'documentation (RFC 9637)'],
];
