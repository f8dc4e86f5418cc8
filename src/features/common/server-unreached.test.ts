import { AppError } from '@/core/errors/app-error';
import { sayUnreached } from './server-unreached';

test('what was refused before it was begun is said as it was refused', () => {
  const error = new AppError('not-allowed', { role: 'a reviewer' }).toJSON();
  expect(sayUnreached(new Error(JSON.stringify({ error })))).toEqual({ ok: false, error });
});

test.each([new TypeError('fetch failed'), new Error('{}'), new Error('{"error":1}'), 503, undefined])(
  'of anything else nobody knows whether it was done (%s)',
  (cause) => expect(sayUnreached(cause).error.code).toBe('server-unreached'),
);
