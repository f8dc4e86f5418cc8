/** What somebody may do who uses the app from a network. */
export const ROLES = ['engineer', 'reviewer'] as const;
export type Role = (typeof ROLES)[number];

/** Who asks: a person who has signed in, or a program that may bring files, to any job or to one. */
export type Asker = { kind: 'person'; role: Role } | { kind: 'intake'; jobId: string | null };

/** What is asked: a page, or an operation of the API. A server action is a change that comes to the address of a page. */
export interface Request {
  method: string;
  /** Without its query. */
  path: string;
}

const READING = ['GET', 'HEAD'];

/** Pages and operations that only engineers see: what they show is no part of a review. */
const FOR_ENGINEERS = [
  '/people',
  '/receivers',
  '/storage',
  '/api/people',
  '/api/sessions',
  '/api/tokens',
  '/api/receivers',
  '/api/storage',
  '/api/metrics',
];

/** What a reviewer may change: what they themselves decide, and their own session. */
const REVIEWED = [/^\/api\/deliveries\/[^/]+\/(acceptance|approval)$/, /^\/api\/sign-out$/];

/** What brings a file in, and tells what became of it. */
const INTAKE: readonly (readonly [methods: readonly string[], path: RegExp])[] = [
  [['GET'], /^\/api\/jobs$/],
  [['PUT'], /^\/api\/jobs\/(?<jobId>[^/]+)\/sources$/],
  [['GET'], /^\/api\/jobs\/(?<jobId>[^/]+)$/],
  [['POST', 'PATCH', 'HEAD', 'DELETE', 'OPTIONS'], /^\/api\/uploads(\/[^/]+)?$/],
  [['GET'], /^\/api\/(health|openapi\.json)$/],
];

const isBelow = (path: string, root: string) => path === root || path.startsWith(`${root}/`);

/** Whether somebody may ask for something. What nobody has thought of is for engineers. */
export function mayAsk(asker: Asker, { method, path }: Request): boolean {
  if (asker.kind === 'intake') {
    return INTAKE.some(([methods, pattern]) => {
      const found = pattern.exec(path);
      const { jobId } = found?.groups ?? {};
      return found !== null && methods.includes(method) && (asker.jobId === null || !jobId || jobId === asker.jobId);
    });
  }
  if (asker.role === 'engineer') return true;
  if (READING.includes(method)) return !FOR_ENGINEERS.some((root) => isBelow(path, root));
  return method === 'POST' && REVIEWED.some((pattern) => pattern.test(path));
}

/** What is signed, or names a secret of its own: whoever asks is known by that, and by nothing else. */
const KNOWN_BY_ITSELF = [/^\/api\/transfers\/[^/]+\/files\/\d+$/, /^\/api\/intake\/.+/];

/** What whoever has not signed in may ask: the page to do so and what it is made of, and what receivers ask. */
export function isForAll({ method, path }: Request): boolean {
  if (KNOWN_BY_ITSELF.some((pattern) => pattern.test(path))) return true;
  if (method === 'POST') return path === '/api/sign-in';
  return READING.includes(method) && (path === '/sign-in' || path === '/icon.svg' || isBelow(path, '/_next/static'));
}
