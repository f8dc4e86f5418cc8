/** The rooms of core form no circle: whoever reads one needs to know only those below it. */
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, normalize, relative, sep } from 'node:path';

const CORE = 'src/core';

/** Which rooms a room's files import from, but for their tests. */
function importsOf(): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>();
  for (const name of readdirSync(CORE, { recursive: true, encoding: 'utf8' })) {
    if (!name.endsWith('.ts') || name.endsWith('.test.ts')) continue;
    const [room = ''] = name.split(sep);
    const rooms = found.get(room) ?? new Set();
    found.set(room, rooms);
    for (const [, path = ''] of readFileSync(join(CORE, name), 'utf8').matchAll(/from '(\.[^']+|@\/core\/[^']+)'/g)) {
      const target = path.startsWith('.')
        ? relative(CORE, normalize(join(CORE, dirname(name), path)))
        : path.slice('@/core/'.length);
      const [other = ''] = target.split(sep);
      if (other !== room) rooms.add(other);
    }
  }
  return found;
}

test('no room of core needs one that needs it', () => {
  const imports = importsOf();
  expect(imports.size).toBeGreaterThan(10);
  const reached = (room: string, seen = new Set<string>()): Set<string> => {
    for (const other of imports.get(room) ?? []) {
      if (!seen.has(other)) reached(other, seen.add(other));
    }
    return seen;
  };
  expect([...imports.keys()].filter((room) => reached(room).has(room))).toEqual([]);
});
