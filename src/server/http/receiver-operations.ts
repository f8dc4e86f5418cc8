/** Receivers, and what is sent to them. */
import * as z from 'zod';
import { newReceiverSchema } from '../receivers/new-receiver';
import { receiverAnswer, transferAnswer } from './answers';
import { operation } from './operation';
import { id } from './query';

export const RECEIVER_OPERATIONS = {
  sendDelivery: operation({
    method: 'POST',
    path: '/api/deliveries/{deliveryId}/send',
    tag: 'Receivers',
    status: 202,
    summary: 'Sends a delivery to a receiver; never twice, unless it was refused.',
    body: z.object({ receiverId: id }),
    answer: z.object({ transferId: z.string() }),
  }),
  viewTransfer: operation({
    method: 'GET',
    path: '/api/transfers/{transferId}',
    tag: 'Receivers',
    summary: 'How far a delivery is on its way, what was answered, and what happened meanwhile.',
    answer: transferAnswer,
  }),
  sentFile: operation({
    method: 'GET',
    path: '/api/transfers/{transferId}/files/{index}',
    tag: 'Receivers',
    summary: 'A file of a delivery, for the receiver that was told to fetch it.',
    query: z.object({ token: z.string().min(1).max(100) }),
    answer: 'audio',
  }),
  listReceivers: operation({
    method: 'GET',
    path: '/api/receivers',
    tag: 'Receivers',
    summary: 'Where deliveries can go.',
    answer: z.array(receiverAnswer),
  }),
  addReceiver: operation({
    method: 'POST',
    path: '/api/receivers',
    tag: 'Receivers',
    status: 201,
    summary: 'Adds a receiver. Its secret is never answered.',
    body: newReceiverSchema,
    answer: receiverAnswer,
  }),
  changeReceiver: operation({
    method: 'PUT',
    path: '/api/receivers/{receiverId}',
    tag: 'Receivers',
    status: 204,
    summary: 'Changes a receiver; an empty secret leaves the one that it has.',
    body: newReceiverSchema,
  }),
  removeReceiver: operation({
    method: 'DELETE',
    path: '/api/receivers/{receiverId}',
    tag: 'Receivers',
    status: 204,
    summary: 'Takes a receiver away; what was sent to it is still told.',
  }),
};
