/** The arrows of the house: web, server, cli → media → pipeline → kernels; all → core. Anything else fails. */
const only = (from, allowed) => ({
  name: `${from}-arrows`,
  severity: 'error',
  from: { path: `^${from}/`, pathNot: '\\.test\\.ts$' },
  to: { path: '^(packages|apps|demo|e2e|bench)/', pathNot: [`^${from}/`, ...allowed.map((p) => `^${p}/`)] },
});

/** Core in layers, the lowest first: a folder imports those before it in this list only, so none import each other in a circle. */
const CORE = [
  ...[
    'foundation',
    'time',
    'time-map',
    'frame',
    'colour',
    'health',
    'proxy',
    'cadence',
    'shape',
    'title',
    'look',
    'model',
  ],
  ...[
    'beats',
    'sampling',
    'clean',
    'framing',
    'blur',
    'reel',
    'motion',
    'group',
    'sound',
    'steady',
    'accent',
    'advice',
  ],
  ...['edit', 'resolve', 'landing', 'join', 'lay', 'rough', 'render', 'api', 'exchange'],
];
const layers = CORE.map((folder, i) => ({
  name: `core-layers-${folder}`,
  severity: 'error',
  from: { path: `^packages/core/src/${folder}/`, pathNot: '\\.test\\.ts$' },
  to: { path: '^packages/core/src/', pathNot: `^packages/core/src/(${CORE.slice(0, i + 1).join('|')})/` },
}));
const everyFolderHasALayer = {
  name: 'core-layers',
  severity: 'error',
  from: { path: '^packages/core/src/', pathNot: `^packages/core/src/(${CORE.join('|')})/` },
  to: { path: '.' },
};
const coreByDoors = {
  name: 'core-by-its-doors',
  severity: 'error',
  from: { path: '^(packages|apps|e2e|bench|demo)/', pathNot: ['^packages/core/', '\\.test\\.ts$', '/test/', '^e2e/'] },
  to: { path: '^packages/core/src/', pathNot: '^packages/core/src/[^/]+/index\\.ts$' },
};

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      // A transform of Fourier's, and readers of separated values and of MIDI files, are all it takes from others.
      to: {
        dependencyTypes: ['core', 'npm', 'npm-dev'],
        pathNot: '^node_modules/(fft\\.js|d3-dsv|@types/d3-dsv|midi-file)/',
      },
    },
    {
      name: 'kernels-and-pipeline-run-anywhere',
      severity: 'error',
      from: { path: '^packages/(kernels|pipeline)/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core', 'npm'], pathNot: '^packages/|node_modules/signalsmith-stretch/' },
    },
    ...layers,
    everyFolderHasALayer,
    coreByDoors,
    only('packages/core', []),
    only('packages/kernels', ['packages/core']),
    only('packages/pipeline', ['packages/core', 'packages/kernels']),
    only('packages/media', ['packages/core', 'packages/kernels', 'packages/pipeline']),
    only('apps/cli', ['packages']),
    only('apps/server', ['packages']),
    only('apps/web', ['packages/core', 'packages/kernels', 'packages/pipeline']),
    {
      name: 'session-without-a-framework',
      severity: 'error',
      from: { path: '^apps/web/src/(session/|bench/.*commands\\.ts$)', pathNot: '\\.test\\.ts$' },
      to: {
        path: ['node_modules/(react|react-dom|react-router|@tanstack|radix-ui|sonner)/', '\\.tsx$', '/use-[^/]*\\.ts$'],
      },
    },
    {
      name: 'ffmpeg-has-one-door',
      severity: 'error',
      from: {
        path: '^(apps|packages)/',
        pathNot: [
          '^packages/media/src/ffmpeg/',
          '\\.test\\.ts$',
          '/test/',
          '^packages/media/src/(encode/encoder|decode/raw-stream)',
          '^apps/server/src/jobs/(job|stills)',
        ],
      },
      to: { path: '^(node:)?child_process$' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|assembly)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.tests.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['types', 'import', 'default'] },
  },
};
