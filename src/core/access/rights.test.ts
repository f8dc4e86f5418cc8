import fc from 'fast-check';
import { type Asker, isForAll, mayAsk } from './rights';

const engineer: Asker = { kind: 'person', role: 'engineer' };
const reviewer: Asker = { kind: 'person', role: 'reviewer' };
const intake: Asker = { kind: 'intake', jobId: null };
const ofJob: Asker = { kind: 'intake', jobId: 'a' };

test.each([
  ['GET', '/jobs/a/measure-and-set', true],
  ['GET', '/api/programmes/p/frames', true],
  ['GET', '/api/deliveries/d/file', true],
  ['POST', '/api/deliveries/d/acceptance', true],
  ['POST', '/api/deliveries/d/approval', true],
  ['POST', '/api/deliveries/d/decision', false],
  ['POST', '/api/sign-out', true],
  ['POST', '/jobs/a/hand-over', false],
  ['PATCH', '/api/programmes/p/treatment', false],
  ['DELETE', '/api/jobs/a', false],
  ['PUT', '/api/jobs/a/sources', false],
  ['POST', '/api/deliveries/d/approval/x', false],
  ['GET', '/people', false],
  ['GET', '/api/people', false],
  ['GET', '/receivers', false],
  ['GET', '/peoples', true],
])('a reviewer, %s %s: %s', (method, path, may) => {
  expect(mayAsk(reviewer, { method, path })).toBe(may);
  expect(mayAsk(engineer, { method, path })).toBe(true);
});

test.each([
  ['PUT', '/api/jobs/a/sources', true, true],
  ['PUT', '/api/jobs/b/sources', true, false],
  ['POST', '/api/uploads', true, true],
  ['PATCH', '/api/uploads/u', true, true],
  ['GET', '/api/jobs/b', true, false],
  ['DELETE', '/api/jobs/a', false, false],
  ['GET', '/jobs/a/take-in', false, false],
  ['GET', '/api/deliveries/d/file', false, false],
  ['POST', '/api/deliveries/d/decision', false, false],
])('a program that brings files, %s %s: %s; for one job: %s', (method, path, may, mayForOne) => {
  expect(mayAsk(intake, { method, path })).toBe(may);
  expect(mayAsk(ofJob, { method, path })).toBe(mayForOne);
});

test('who has not signed in sees the page to do so, and nothing else', () => {
  expect(isForAll({ method: 'GET', path: '/sign-in' })).toBe(true);
  expect(isForAll({ method: 'POST', path: '/api/sign-in' })).toBe(true);
  expect(isForAll({ method: 'GET', path: '/_next/static/a.js' })).toBe(true);
  fc.assert(
    fc.property(
      fc.constantFrom('GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS'),
      fc.webPath(),
      (method, path) => {
        const isKnown =
          ['/sign-in', '/icon.svg', '/api/sign-in'].includes(path) ||
          path.startsWith('/_next/static') ||
          /^\/api\/(intake|transfers)\//.test(path);
        if (!isKnown) expect(isForAll({ method, path })).toBe(false);
      },
    ),
  );
  for (const path of ['/_next/staticx', '/sign-in/x', '/', '/api/jobs']) {
    expect(isForAll({ method: 'GET', path })).toBe(false);
  }
});
