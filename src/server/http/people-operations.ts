/** What can be asked of people who use the app from a network, and what they decide. */
import * as z from 'zod';
import { ROLES } from '@/core/access/rights';
import { personFields, tokenFields } from '../people/people';
import { operation } from './operation';

const atMs = z.number();

export const PEOPLE_OPERATIONS = {
  signIn: operation({
    method: 'POST',
    path: '/api/sign-in',
    tag: 'People',
    status: 204,
    summary: 'Signs a person in: the answer sets a cookie that the browser shows from then on.',
    body: z.object({ name: z.string().min(1).max(80), passphrase: z.string().min(1).max(200) }),
  }),
  signOut: operation({
    method: 'POST',
    path: '/api/sign-out',
    tag: 'People',
    status: 204,
    summary: 'Ends the session of this browser.',
  }),
  viewPeople: operation({
    method: 'GET',
    path: '/api/people',
    tag: 'People',
    summary: 'Who may use the app from a network, with their sessions; tokens of programs; who did what.',
    answer: z.object({
      people: z.array(
        z.object({
          id: z.string(),
          name: z.string(),
          role: z.enum(ROLES),
          createdAtMs: atMs,
          sessions: z.array(
            z.object({ id: z.string(), browser: z.string(), address: z.string(), createdAtMs: atMs, usedAtMs: atMs }),
          ),
        }),
      ),
      tokens: z.array(
        z.object({
          id: z.string(),
          name: z.string(),
          jobId: z.string().nullable(),
          createdAtMs: atMs,
          usedAtMs: atMs.nullable(),
        }),
      ),
      log: z.array(z.object({ id: z.int(), atMs, who: z.string(), what: z.string(), subject: z.string() })),
    }),
  }),
  addPerson: operation({
    method: 'POST',
    path: '/api/people',
    tag: 'People',
    status: 201,
    summary: 'Adds a person.',
    body: personFields,
    answer: z.object({ personId: z.string() }),
  }),
  changePerson: operation({
    method: 'PATCH',
    path: '/api/people/{personId}',
    tag: 'People',
    status: 204,
    summary: 'Gives a person another role or passphrase; their sessions end.',
    body: personFields.pick({ role: true, passphrase: true }).partial(),
  }),
  removePerson: operation({
    method: 'DELETE',
    path: '/api/people/{personId}',
    tag: 'People',
    status: 204,
    summary: 'Removes a person; their sessions end. What they decided stays.',
  }),
  endSession: operation({
    method: 'DELETE',
    path: '/api/sessions/{sessionId}',
    tag: 'People',
    status: 204,
    summary: 'Ends a session.',
  }),
  addToken: operation({
    method: 'POST',
    path: '/api/tokens',
    tag: 'People',
    status: 201,
    summary: 'Makes a token for a program that brings files, as `Authorization: Bearer …`. It is told this once.',
    body: tokenFields,
    answer: z.object({ tokenId: z.string(), token: z.string() }),
  }),
  removeToken: operation({
    method: 'DELETE',
    path: '/api/tokens/{tokenId}',
    tag: 'People',
    status: 204,
    summary: 'Takes a token back.',
  }),
  acceptDelivery: operation({
    method: 'POST',
    path: '/api/deliveries/{deliveryId}/acceptance',
    tag: 'Hand over',
    status: 204,
    summary: 'Hands a file over although it misses, for a reason; its certificate names both, and who has said so.',
    body: z.object({ reason: z.string().trim().min(3).max(2000) }),
  }),
  approveDelivery: operation({
    method: 'POST',
    path: '/api/deliveries/{deliveryId}/approval',
    tag: 'Hand over',
    status: 204,
    summary: 'Approves a verified file: its certificate names who has, and when.',
  }),
};
