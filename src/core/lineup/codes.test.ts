import { checkDigit, isrcRun, readCatalogNumber } from './codes';

test('ISRCs count on in their last five digits, and no further than these reach', () => {
  expect(isrcRun('QDA1A2600009', 3)).toEqual(['QDA1A2600009', 'QDA1A2600010', 'QDA1A2600011']);
  expect(isrcRun('QDA1A2699998', 2)).toEqual(['QDA1A2699998', 'QDA1A2699999']);
  expect(() => isrcRun('QDA1A2699998', 3)).toThrow('after QDA1A2699998 there are 1');
});

/**
 * Numbers in general use as examples: 4006381333931 of an encyclopaedia's article on EAN, 036000291452 of the one on UPC, and
 * 9780306406157 of the one on ISBN (all from memory).
 */
test.each([
  ['4006381333931', '4006381333931'],
  ['036000291452', '0036000291452'],
  ['978-0-306-40615-7', '9780306406157'],
  ['0 36000 29145 2', '0036000291452'],
])('%s is a catalogue number', (text, number) => expect(readCatalogNumber(text)).toEqual({ number }));

test('a wrong digit is found out, and the one that would be right is told', () => {
  expect(readCatalogNumber('4006381333932')).toEqual({ problem: 'check-digit', expected: 1 });
  expect(readCatalogNumber('400638133393')).toEqual({ problem: 'check-digit', expected: expect.any(Number) });
  expect(readCatalogNumber('12345')).toEqual({ problem: 'length' });
  expect(readCatalogNumber('ABCDEFGHIJKLM')).toEqual({ problem: 'length' });
});

test('any one digit that is mistyped changes the check digit', () => {
  const right = '400638133393';
  for (let at = 0; at < right.length; at++) {
    for (let digit = 0; digit < 10; digit++) {
      const wrong = `${right.slice(0, at)}${digit}${right.slice(at + 1)}`;
      if (wrong !== right) expect(checkDigit(wrong)).not.toBe(checkDigit(right));
    }
  }
});
