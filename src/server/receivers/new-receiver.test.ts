import { delimiter } from 'node:path';
import { newReceiverSchema } from './new-receiver';

const receiver = { name: 'a', kind: 'put', address: 'http://a.example' };

test('an address is what its transport can reach, and holds no password', () => {
  expect(newReceiverSchema.safeParse(receiver).success).toBe(true);
  expect(newReceiverSchema.safeParse({ ...receiver, address: 'http://a:b@a.example' }).success).toBe(false);
  expect(newReceiverSchema.safeParse({ ...receiver, address: 'ftp://a.example' }).success).toBe(false);
  expect(newReceiverSchema.safeParse({ ...receiver, kind: 'drop-folder' }).success).toBe(false);
  expect(newReceiverSchema.safeParse({ ...receiver, kind: 'pigeon' }).success).toBe(false);
});

test('what is wrong with it is said of its field', () => {
  const { error } = newReceiverSchema.safeParse({ ...receiver, address: 'in', kind: 'drop-folder' });
  expect(error?.issues).toEqual([
    expect.objectContaining({ path: ['address'], message: 'Enter the full path of a folder' }),
  ]);
});

test('a folder is one of those that the server names, or in one', () => {
  const isTaken = (address: string) =>
    newReceiverSchema.safeParse({ ...receiver, kind: 'drop-folder', address }).success;
  delete process.env.OPSIMETER_DROP_FOLDERS;
  expect(isTaken('/mnt/playout')).toBe(false);
  process.env.OPSIMETER_DROP_FOLDERS = ['/mnt/playout', '/srv/in/'].join(delimiter);
  for (const address of ['/mnt/playout', '/mnt/playout/in', '/srv/in', '/srv/in/a/../b'])
    expect(isTaken(address)).toBe(true);
  for (const address of ['/mnt', '/mnt/playout2', '/mnt/playout/../x', '/srv/in/../../etc', '/']) {
    expect(isTaken(address)).toBe(false);
  }
});
