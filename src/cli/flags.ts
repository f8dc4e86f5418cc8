import { type Command, Option } from 'commander';
import { AppError } from '@/core/errors/app-error';
import type { FlagReader, StepFlag } from '@/core/treatment/step';
import { flagsMessages as messages } from './messages';

/** Flags that earlier versions knew, by their names of today. */
const OLD_FLAGS: Readonly<Record<string, string>> = {
  'padding-start': 'head',
  'padding-end': 'tail',
  'output-gain': 'trim',
};

/** Flags under a heading of a command's help. */
export interface FlagGroup {
  heading: string;
  flags: readonly StepFlag[];
}

/** Adds flags to a command, under a heading of its help. What earlier versions called them is still read, and not shown. */
export function addFlags(command: Command, heading: string, flags: readonly StepFlag[]): void {
  for (const { name, value, help } of flags) {
    const syntax = (own: string) => (value === undefined ? `--${own}` : `--${own} <${value}>`);
    command.addOption(new Option(syntax(name), help).helpGroup(heading));
    const old = OLD_FLAGS[name];
    if (old !== undefined) command.addOption(new Option(syntax(old)).hideHelp());
  }
}

/** The flags that were typed behind a command. */
export class Flags implements FlagReader {
  readonly #values: Readonly<Record<string, unknown>>;

  /** @param values by their names in camel case, as `Command.opts()` has them */
  constructor(values: Readonly<Record<string, unknown>>) {
    this.#values = values;
  }

  isOn(name: string): boolean {
    return this.#values[camelCase(name)] === true;
  }

  /** Null where it is absent. */
  text(name: string): string | null {
    const old = OLD_FLAGS[name];
    const value = this.#values[camelCase(name)] ?? (old === undefined ? undefined : this.#values[camelCase(old)]);
    return typeof value === 'string' ? value : null;
  }

  number(name: string, least: number, most: number): number | null {
    const text = this.text(name);
    if (text === null) return null;
    const value = Number(text);
    if (text.trim() !== '' && value >= least && value <= most) return value;
    throw new AppError('usage', { reason: messages.number(name, least, most) });
  }

  choice<T extends string, O>(name: string, known: readonly T[], otherwise: O): T | O {
    const text = this.text(name);
    if (text === null) return otherwise;
    const found = known.find((value) => value === text);
    if (found !== undefined) return found;
    throw new AppError('usage', { reason: messages.oneOf(name, known.join(', ')) });
  }

  frames(name: string, rateHz: number): number | null {
    const text = this.text(name);
    if (text === null) return null;
    if (!/^(\d+:)?(\d+:)?\d+(\.\d+)?$/.test(text)) {
      throw new AppError('usage', { reason: messages.time(name) });
    }
    return Math.round(text.split(':').reduce((total, part) => 60 * total + Number(part), 0) * rateHz);
  }
}

function camelCase(name: string): string {
  return name.replace(/-(.)/g, (_, letter: string) => letter.toUpperCase());
}
