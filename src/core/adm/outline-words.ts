import { formatTime } from '../units/format';
import { outlineMessages as messages } from './messages';
import type { OutlineNode } from './outline';

/** What a person reads beside the name of a node: what it is, which channels of the file it has, and when it is heard. */
export function outlineDetails({ kind, language, object }: OutlineNode): string[] {
  if (!object) return [messages.kinds[kind], ...(language === null ? [] : [language])];
  const { types, channels, startSeconds, durationSeconds } = object;
  const at = (seconds: number) => formatTime(seconds, { milliseconds: true });
  return [
    ...(types.length > 0 ? types.map((type) => messages.types[type]) : [messages.kinds.object]),
    ...(channels.length > 0 ? [messages.channels(runsOf(channels), channels.length)] : []),
    ...(startSeconds === null ? [] : [messages.from(at(startSeconds))]),
    ...(durationSeconds === null ? [] : [messages.to(at((startSeconds ?? 0) + durationSeconds))]),
  ];
}

/** Numbers as runs: 1–6, 9. */
function runsOf(numbers: readonly number[]): string {
  const runs: [number, number][] = [];
  for (const number of numbers) {
    const last = runs.at(-1);
    if (last && number === last[1] + 1) last[1] = number;
    else runs.push([number, number]);
  }
  return runs.map(([from, to]) => (from === to ? `${from}` : `${from}–${to}`)).join(', ');
}
