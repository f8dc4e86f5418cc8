import type { ReceiverKind } from '@/core/receiver/receiver';
import { dropFolder } from './drop-folder';
import { putObjects } from './put';
import type { Transport } from './transport';
import { webHook } from './web-hook';

export const TRANSPORTS: Readonly<Record<ReceiverKind, Transport>> = {
  'drop-folder': dropFolder,
  'web-hook': webHook,
  put: putObjects,
};
