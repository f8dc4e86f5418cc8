import { proposeGroups } from './name-groups';

const groups = (...names: string[]) =>
  proposeGroups(names).map(({ kind, name, members }) => [kind, name, members.map((i) => names[i])]);

test('stems of one mix', () => {
  expect(groups('Overture_drums', 'Overture_bass', 'Overture_strings', 'Spot')).toEqual([
    ['stems', 'Overture', ['Overture_drums', 'Overture_bass', 'Overture_strings']],
  ]);
  expect(groups('Night Sky - Vox', 'Night Sky - FX')).toEqual([
    ['stems', 'Night Sky', ['Night Sky - Vox', 'Night Sky - FX']],
  ]);
  expect(groups('dome show dialogue', 'dome show music')).toEqual([
    ['stems', 'dome show', ['dome show dialogue', 'dome show music']],
  ]);
});

test('chapters of one book, by number and not by the order they came in', () => {
  expect(groups('Guide 02 The moon', 'Guide 01 Welcome', 'Guide 10 Farewell')).toEqual([
    ['chapters', 'Guide', ['Guide 01 Welcome', 'Guide 02 The moon', 'Guide 10 Farewell']],
  ]);
  expect(groups('02 - Dusk', '01 - Dawn', '03 - Night')).toEqual([
    ['chapters', 'Chapters', ['01 - Dawn', '02 - Dusk', '03 - Night']],
  ]);
  expect(groups('book_ch01', 'book_ch02', 'book_ch03')).toEqual([
    ['chapters', 'book', ['book_ch01', 'book_ch02', 'book_ch03']],
  ]);
});

test('versions of one programme, the newest last', () => {
  expect(groups('Spot_v2', 'Spot_v10', 'Spot_v1')).toEqual([['versions', 'Spot', ['Spot_v1', 'Spot_v2', 'Spot_v10']]]);
  expect(groups('Overture mix 3', 'overture mix 4')).toEqual([
    ['versions', 'Overture', ['Overture mix 3', 'overture mix 4']],
  ]);
});

test('several groups side by side, and each file in one of them', () => {
  const names = ['A_drums', 'A_bass', 'B_v1', 'B_v2', 'C 1', 'C 2', 'C 3', 'alone'];
  const proposed = proposeGroups(names);
  expect(proposed.map(({ kind }) => kind).sort()).toEqual(['chapters', 'stems', 'versions']);
  const members = proposed.flatMap(({ members: own }) => own);
  expect(new Set(members).size).toBe(members.length);
  expect(members).not.toContain(7);
});

test.each([
  [['Overture', 'Spot', 'Bed']],
  [['Overture_drums', 'Spot_bass']],
  [['Take the train', 'Take a break']],
  [['Part 1', 'Part 2']],
  [['mix', 'mix']],
  [['2024 review', '2025 review', '2026 review']],
  [['Guide 01', 'Guide 01 copy', 'Guide 02']],
])('nothing is proposed for %j', (names) => {
  expect(groups(...names)).toEqual([]);
});

test.each([
  ['Comets ch1', 'Comets ch2', 'Comets ch3'],
  ['Comets chapter 1', 'Comets chapter 2', 'Comets chapter 3'],
  ['Comets Ch. 1 Dust', 'Comets Ch. 2 Ice', 'Comets Ch. 3 Tails'],
])('a number may stand with its word, or right behind it: %s', (...names) => {
  expect(proposeGroups(names)).toEqual([{ kind: 'chapters', name: 'Comets', members: [0, 1, 2] }]);
});
