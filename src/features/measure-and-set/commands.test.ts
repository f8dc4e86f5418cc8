import { COMMANDS, keyName } from './commands';

const key = (name: string, modifiers: object = {}) =>
  keyName({ key: name, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...modifiers });

test.each([
  ['a', {}, 'A'],
  [' ', {}, 'Space'],
  ['N', { shiftKey: true }, 'Shift+N'],
  ['z', { ctrlKey: true }, 'Control+Z'],
  ['z', { metaKey: true }, 'Control+Z'],
  ['?', { shiftKey: true }, '?'],
  ['+', { shiftKey: true }, '+'],
  ['ArrowLeft', { shiftKey: true }, 'Shift+ArrowLeft'],
])('%s with %j is %s', (name, modifiers, expected) => expect(key(name, modifiers)).toBe(expected));

test('no two commands have the same key', () => {
  const keys = COMMANDS.map((command) => command.key);
  expect(new Set(keys).size).toBe(keys.length);
});
