'use client';

import { useEffect } from 'react';
import { ALARMS, type AlarmSettings } from '@/core/live/alarms/alarms';
import type { LineStore } from './line-store';

/** Two short tones, which no programme sounds like. */
const TONES_HZ = [880, 660];
const TONE_SECONDS = 0.18;
const LEVEL = 0.2;

/** Sounds the alarms that are to be heard, as they come. A browser lets a page sound once somebody has pressed something on it. */
export function useAlarmSound(store: LineStore, alarms: AlarmSettings): void {
  useEffect(() => {
    const heard = new Set<string>(ALARMS.map(({ kind }) => kind).filter((kind) => alarms[kind].isHeard));
    // A line that is lost is told with the others.
    if (heard.size > 0) heard.add('line-lost');
    if (heard.size === 0) return;
    let context: AudioContext | undefined;
    const told = new Set<number>();
    const leave = store.onEvent(({ id, kind, endMs }) => {
      if (endMs !== null || !heard.has(kind) || told.has(id)) return;
      told.add(id);
      context ??= new AudioContext();
      sound(context);
    });
    return () => {
      leave();
      void context?.close();
    };
  }, [store, alarms]);
}

function sound(context: AudioContext): void {
  for (const [i, frequency] of TONES_HZ.entries()) {
    const oscillator = new OscillatorNode(context, { frequency });
    const gain = new GainNode(context, { gain: LEVEL });
    oscillator.connect(gain).connect(context.destination);
    const startS = context.currentTime + i * TONE_SECONDS;
    oscillator.start(startS);
    oscillator.stop(startS + TONE_SECONDS);
  }
}
