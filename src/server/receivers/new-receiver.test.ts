import { newReceiverSchema } from './new-receiver';

const receiver = { name: 'a', kind: 'put', address: 'http://a.example' };

test('an address is what its transport can reach, and holds no password', () => {
  expect(newReceiverSchema.safeParse(receiver).success).toBe(true);
  expect(newReceiverSchema.safeParse({ ...receiver, address: 'http://a:b@a.example' }).success).toBe(false);
  expect(newReceiverSchema.safeParse({ ...receiver, address: 'ftp://a.example' }).success).toBe(false);
  expect(newReceiverSchema.safeParse({ ...receiver, kind: 'drop-folder' }).success).toBe(false);
  expect(newReceiverSchema.safeParse({ ...receiver, kind: 'drop-folder', address: 'C:\\in' }).success).toBe(true);
  expect(newReceiverSchema.safeParse({ ...receiver, kind: 'pigeon' }).success).toBe(false);
});

test('what is wrong with it is said of its field', () => {
  const { error } = newReceiverSchema.safeParse({ ...receiver, address: 'in', kind: 'drop-folder' });
  expect(error?.issues).toEqual([
    expect.objectContaining({ path: ['address'], message: 'Enter the full path of a folder' }),
  ]);
});
