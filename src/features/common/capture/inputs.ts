'use client';

import { useEffect, useState } from 'react';
import { inputMessages as messages } from './messages';

/** A device of this machine. */
export interface Device {
  deviceId: string;
  label: string;
}

/** Nothing is to be done to the sound on its way: what the device gives is what is measured. */
const UNPROCESSED = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };

/**
 * Opens an input of this machine, with all of its channels; the browser asks whether the page may listen.
 *
 * @param deviceId undefined for the usual one
 */
export function openInput(deviceId: string | undefined): Promise<MediaStream> {
  return navigator.mediaDevices.getUserMedia({
    audio: {
      ...UNPROCESSED,
      channelCount: { ideal: 24 },
      ...(deviceId === undefined ? {} : { deviceId: { exact: deviceId } }),
    },
  });
}

/** Why an input could not be opened, in words. */
export function reasonOf(error: unknown): string {
  const name = error instanceof DOMException ? error.name : '';
  if (name === 'NotAllowedError') return messages.notAllowed;
  if (name === 'NotFoundError' || name === 'OverconstrainedError') return messages.notFound;
  if (name === 'NotReadableError') return messages.inUse;
  return error instanceof Error ? error.message : String(error);
}

/**
 * The inputs or outputs of this machine, as far as the browser tells of them: with names only once it was allowed to listen.
 *
 * @param isAllowed once it may listen, the browser tells more
 */
export function useDevices(kind: 'audioinput' | 'audiooutput', isAllowed: boolean): Device[] {
  const [devices, setDevices] = useState<Device[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once it may listen, the browser tells more.
  useEffect(() => {
    const { mediaDevices } = navigator;
    // Absent where a page comes over a network without encryption.
    if (!mediaDevices) return;
    const look = async () => {
      const all = await mediaDevices.enumerateDevices();
      const own = all.filter((device) => device.kind === kind && device.label !== '' && device.deviceId !== '');
      setDevices(own.map(({ deviceId, label }) => ({ deviceId, label })));
    };
    const ask = () => void look().catch(() => undefined);
    ask();
    mediaDevices.addEventListener('devicechange', ask);
    return () => mediaDevices.removeEventListener('devicechange', ask);
  }, [kind, isAllowed]);
  return devices;
}
