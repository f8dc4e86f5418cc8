import type { LookupAddress } from 'node:dns';
import { guardedLookup, isRefusedHost } from './addresses';
import { send } from './http';
import { newReceiverSchema } from './new-receiver';

/** Where machines tell their own secrets, in the ways that an address may say so. */
const REFUSED = [
  '169.254.169.254',
  '169.254.0.1',
  '0xa9fea9fe',
  '2852039166',
  '0251.0376.0251.0376',
  '[fe80::1]',
  '[::ffff:169.254.169.254]',
  '[::ffff:a9fe:a9fe]',
  '[fd00:ec2::254]',
  '100.100.100.200',
  'metadata.google.internal',
  'METADATA.google.internal.',
];

test.each(REFUSED)('%s is no address of a receiver', async (host) => {
  const address = `http://${host}/latest/meta-data`;
  const { error } = newReceiverSchema.safeParse({ name: 'a', kind: 'web-hook', address });
  expect(error?.issues.map(({ path }) => path)).toEqual([['address']]);
  // Nor is anything sent there, should it be in the database.
  const context = { signal: new AbortController().signal, clock: Date, onBytes: () => undefined };
  await expect(send({ address, secret: '' }, { method: 'GET', content: '' }, context, [200])).rejects.toMatchObject({
    code: 'receiver-refuses',
  });
});

test.each(['127.0.0.1', '192.168.1.20', '10.0.0.1', '169.253.1.1', 'intake.example', '[::1]', '[2001:db8::1]'])(
  '%s may be one',
  (host) => expect(isRefusedHost(host)).toBe(false),
);

test('a name is looked up as by Node.js, and what it stands for is looked at', async () => {
  const looked = (host: string) =>
    new Promise<LookupAddress[] | string>((resolve) => {
      guardedLookup(host, { all: true }, (error, addresses) =>
        resolve(error ? error.message : (addresses as unknown as LookupAddress[])),
      );
    });
  expect(await looked('localhost')).toEqual(
    expect.arrayContaining([expect.objectContaining({ address: '127.0.0.1' })]),
  );
  // What a name server might answer for a name of its own is, for this, as good as the number itself.
  expect(await looked('169.254.169.254')).toMatch(/such an address/);
});
