/** The directions of the house: core ← kernels ← formats ← codecs ← workers ← server ← features ← app. */
const rooms = ['core', 'kernels', 'formats', 'codecs', 'workers', 'server', 'features', 'app'];

/** A room may import itself and those before it; the interface rooms may also use `ui`, and nobody uses `cli`. */
const directions = rooms.map((room, index) => ({
  name: `${room}-imports-downwards`,
  severity: 'error',
  from: { path: `^src/${room}/`, pathNot: '[.]test[.]ts$' },
  to: { path: `^src/(${[...rooms.slice(index + 1), 'cli', ...(index < 6 ? ['ui'] : [])].join('|')})/` },
}));

module.exports = {
  forbidden: [
    ...directions,
    {
      name: 'the-door-knows-no-server',
      comment: 'It stands before the app, which is bundled apart; what both must know is in core.',
      severity: 'error',
      from: { path: '^src/door/', pathNot: '[.]test[.]ts$' },
      to: { path: '^src/(?!(door|core)/)' },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-is-pure',
      comment: 'No I/O, no DOM, no React: it runs in Node, browser and worklet alike.',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '[.]test[.]ts$' },
      to: { dependencyTypes: ['core', 'npm'], pathNot: 'node_modules/(zod|fft[.]js)' },
    },
    {
      name: 'formats-without-files',
      severity: 'error',
      from: { path: '^src/formats/', pathNot: '[.]test[.]ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'ui-knows-no-domain',
      severity: 'error',
      from: { path: '^src/ui/' },
      to: { path: '^src/(?!ui/)' },
    },
    {
      name: 'features-stand-apart',
      comment: 'What several stages share is in features/common.',
      severity: 'error',
      from: { path: '^src/features/([^/]+)/' },
      to: { path: '^src/features/', pathNot: '^src/features/($1|common)/' },
    },
    {
      name: 'common-stands-under-features',
      severity: 'error',
      from: { path: '^src/features/common/' },
      to: { path: '^src/features/(?!common/)' },
    },
    {
      name: 'pages-take-only-types-and-actions-from-the-server',
      severity: 'error',
      from: { path: '^src/features/', pathNot: 'actions[.]ts$' },
      to: { path: '^src/(server|workers/(?!browser/))', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'cli-uses-server-and-below',
      severity: 'error',
      from: { path: '^src/cli/' },
      to: { path: '^src/(features|app|ui)/' },
    },
    {
      name: 'nothing-from-tests',
      severity: 'error',
      from: { path: '^src/', pathNot: '[.]test[.]ts$' },
      to: { path: '^(tests|e2e|bench)/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'require', 'node', 'default'] },
  },
};
