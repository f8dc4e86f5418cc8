/** Which addresses of a network a receiver may be at: not those where a machine tells its own secrets. */
import { lookup } from 'node:dns';
import { BlockList, isIP, type LookupFunction } from 'node:net';
import { addressMessages as messages } from './messages';

/**
 * Link-local addresses (RFC 3927, RFC 4291), where clouds answer with keys of the machine, and the ones that they use besides
 * (common practice, no source).
 */
const REFUSED = new BlockList();
REFUSED.addSubnet('169.254.0.0', 16, 'ipv4');
REFUSED.addSubnet('fe80::', 10, 'ipv6');
REFUSED.addAddress('fd00:ec2::254', 'ipv6');
REFUSED.addAddress('100.100.100.200', 'ipv4');
REFUSED.addAddress('192.0.0.192', 'ipv4');

const REFUSED_NAMES = ['metadata', 'metadata.google.internal', 'instance-data'];

/** Whether nothing may be sent to a host, by its name or its number. */
export function isRefusedHost(host: string): boolean {
  const plain = host.replace(/^\[|\]$/g, '').toLowerCase();
  const family = isIP(plain);
  if (family === 0) return REFUSED_NAMES.includes(plain.replace(/\.$/, ''));
  return REFUSED.check(plain, family === 4 ? 'ipv4' : 'ipv6');
}

/** What is meant by `ECONNREFUSED` and its like, where it is us who refuse. */
export const REFUSED_CODE = 'OPSIMETER_REFUSED';

/** Looks a name up as Node.js does; what it stands for is held against the same list, at the very moment of connecting. */
export const guardedLookup: LookupFunction = (host, options, found) => {
  lookup(host, { ...options, all: true }, (error, addresses) => {
    if (error) return found(error, []);
    if (isRefusedHost(host) || addresses.some(({ address }) => isRefusedHost(address))) {
      return found(Object.assign(new Error(messages.refused), { code: REFUSED_CODE }), []);
    }
    if (options.all) return found(null, addresses);
    const [{ address, family } = { address: '', family: 4 }] = addresses;
    return found(null, address, family);
  });
};
