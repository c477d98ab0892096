/** The arrows of the house: web, server, cli → media → pipeline → kernels; all → core. Anything else fails. */
const only = (from, allowed) => ({
  name: `${from}-arrows`,
  severity: 'error',
  from: { path: `^${from}/`, pathNot: '\\.test\\.ts$' },
  to: { path: '^(packages|apps|demo|e2e|bench)/', pathNot: [`^${from}/`, ...allowed.map((p) => `^${p}/`)] },
});
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
    only('packages/core', []),
    only('packages/kernels', ['packages/core']),
    only('packages/pipeline', ['packages/core', 'packages/kernels']),
    only('packages/media', ['packages/core', 'packages/kernels', 'packages/pipeline']),
    only('apps/cli', ['packages']),
    only('apps/server', ['packages']),
    only('apps/web', ['packages/core', 'packages/kernels', 'packages/pipeline']),
    {
      name: 'ffmpeg-has-one-door',
      severity: 'error',
      from: {
        path: '^(apps|packages)/',
        pathNot: [
          '^packages/media/src/ffmpeg',
          '\\.test\\.ts$',
          '/test/',
          '^packages/media/src/(encoder|raw-stream)',
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
