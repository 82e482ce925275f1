import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { AddressRules, isPublic } from './addresses';

describe('addresses', () => {
  it.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '255.255.255.255',
    '::1',
    '::',
    'fe80::1',
    'fd00::1',
    '::ffff:127.0.0.1',
    '::ffff:7f00:1',
    '64:ff9b::7f00:1',
    '2002:7f00:1::',
    '2001:db8::1',
    'nonsense',
    '192.0.0.8',
    '192.31.196.1',
    '192.52.193.1',
    '192.175.48.1',
    '198.19.0.1',
    '203.0.113.9',
    '240.0.0.1',
    '::127.0.0.1',
    '0:0:0:0:0:ffff:10.0.0.1',
    '100::1',
    '100:0:0:1::1',
    '2001::1',
    '2001:20::1',
    '2620:4f:8000::1',
    '3fff::1',
    '5f00::1',
    'fec0::1',
    'ff02::1',
    'fe80::1%eth0',
    '4000::1',
    '',
  ])('%s is not public', (address) => expect(isPublic(address)).toBe(false));

  it.each(['93.184.216.34', '1.1.1.1', '2606:4700::1111', '2a00:1450::1', '192.0.1.1', '::ffff:93.184.216.34'])(
    '%s is public',
    (address) => expect(isPublic(address)).toBe(true),
  );

  it('refuses every private IPv4, however it is dressed', () => {
    const byte = fc.integer({ min: 0, max: 255 });
    fc.assert(
      fc.property(byte, byte, byte, (a, b, c) => {
        expect(isPublic(`10.${a}.${b}.${c}`)).toBe(false);
        expect(isPublic(`::ffff:10.${a}.${b}.${c}`)).toBe(false);
      }),
    );
  });
});

describe('address rules', () => {
  const resolve = (addresses: string[]) => () => Promise.resolve(addresses);

  it('refuse a name when any of its addresses is private', async () => {
    expect(await new AddressRules([], resolve(['93.184.216.34', '10.0.0.1'])).check('shop.example', 443)).toEqual({
      ok: false,
      error: 'private address',
    });
    expect(await new AddressRules([], resolve(['93.184.216.34'])).check('shop.example', 443)).toEqual({
      ok: true,
      value: '93.184.216.34',
    });
    expect(await new AddressRules([], resolve([])).check('shop.example', 443)).toEqual({
      ok: false,
      error: 'unknown host',
    });
  });

  it('admit only the host and port that the configuration names', async () => {
    const rules = new AddressRules(['*.localhost:4610']);
    expect(await rules.check('skepwright.localhost', 4610)).toEqual({ ok: true, value: '127.0.0.1' });
    expect((await rules.check('skepwright.localhost', 5432)).ok).toBe(false);
    expect((await rules.check('127.0.0.1', 4610)).ok).toBe(false);
    expect((await rules.check('notlocalhost', 4610)).ok).toBe(false);
    expect((await rules.check('[::1]', 4610)).ok).toBe(false);
  });
});
