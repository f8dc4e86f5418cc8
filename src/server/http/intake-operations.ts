/** The simulated intake, for those who send to it. */
import { manifestSchema, receiverAnswerSchema } from '@/core/receiver/manifest';
import { operation } from './operation';

export const INTAKE_OPERATIONS = {
  tellDesk: operation({
    method: 'POST',
    path: '/api/intake/{intakeId}/hook',
    tag: 'Simulated intake',
    status: 202,
    summary: 'A simulated intake is told of a delivery, and fetches it. Signed.',
    body: manifestSchema,
    answer: receiverAnswerSchema,
  }),
  askDesk: operation({
    method: 'GET',
    path: '/api/intake/{intakeId}/hook/{key}',
    tag: 'Simulated intake',
    summary: 'What a simulated intake says of a delivery. Signed.',
    answer: receiverAnswerSchema,
  }),
  headObject: operation({
    method: 'HEAD',
    path: '/api/intake/{intakeId}/objects/{key}/{name}',
    tag: 'Simulated intake',
    summary: 'How much of an object has arrived, as `X-Received`. Signed.',
  }),
  putObject: operation({
    method: 'PUT',
    path: '/api/intake/{intakeId}/objects/{key}/{name}',
    tag: 'Simulated intake',
    summary: 'A part of an object, by its Content-Range; `delivery.json` says that all are whole. Signed.',
    body: 'bytes',
  }),
  getObject: operation({
    method: 'GET',
    path: '/api/intake/{intakeId}/objects/{key}/{name}',
    tag: 'Simulated intake',
    summary: '`answer.json`: what the intake says of a delivery. Signed.',
    answer: receiverAnswerSchema,
  }),
};
