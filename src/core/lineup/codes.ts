/** Codes of records: their ISRCs, and the number of the record itself. */

const MOST_DESIGNATION = 99_999;

/**
 * ISRCs numbered on from a first: the country, the registrant and the year stay, the last five digits count up (ISO 3901).
 *
 * @param first twelve characters, without hyphens
 * @throws {RangeError} where the five digits do not reach so far
 */
export function isrcRun(first: string, count: number): string[] {
  const [stem, number] = [first.slice(0, 7), Number(first.slice(7))];
  if (number + count - 1 > MOST_DESIGNATION)
    throw new RangeError(`after ${first} there are ${MOST_DESIGNATION - number}`);
  return Array.from({ length: count }, (_, i) => `${stem}${String(number + i).padStart(5, '0')}`);
}

/** The digit that ends a number of 8, 12 or 13 digits (GS1 General Specifications: weights 3 and 1 from the right; from memory). */
export function checkDigit(digits: string): number {
  const sum = [...digits].reverse().reduce((total, digit, i) => total + Number(digit) * (i % 2 === 0 ? 3 : 1), 0);
  return (10 - (sum % 10)) % 10;
}

/** What a number that was typed is: the 13 digits of a catalogue number, or why it is none. */
export type CatalogNumber = { number: string } | { problem: 'length' } | { problem: 'check-digit'; expected: number };

/** Reads an EAN of 13 digits, or a UPC of 12, which is one with a 0 ahead; spaces and hyphens are for reading only. */
export function readCatalogNumber(text: string): CatalogNumber {
  const plain = text.replaceAll(/[\s-]/g, '');
  if (!/^\d{12,13}$/.test(plain)) return { problem: 'length' };
  const number = plain.padStart(13, '0');
  const expected = checkDigit(number.slice(0, 12));
  return Number(number.at(12)) === expected ? { number } : { problem: 'check-digit', expected };
}
