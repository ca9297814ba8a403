/** Who may import whom (docs/how-it-works.md), types included: kept by this rule, not by hope. */
const { join } = require('node:path')

const OURS = [
  'api',
  'app',
  'bench',
  'cli',
  'control',
  'core',
  'demo',
  'generator',
  'main',
  'protocol',
  'server',
  'simfleet',
  'standins',
]
const may = {
  core: [],
  protocol: ['core'],
  generator: ['core', 'protocol'],
  simfleet: ['core', 'protocol'],
  api: ['core'],
  control: ['core', 'protocol', 'api'],
  server: ['core', 'control', 'api'],
  main: ['core', 'control', 'api', 'protocol'],
  cli: ['core', 'control', 'api'],
  app: ['api', 'core'],
  standins: [],
}

/**
 * Rooms within a folder, in order: each may import only itself and what stands before it. So there are no circles
 * between them.
 */
const ROOMS = {
  core: [
    'random',
    'clock',
    'histogram',
    'values',
    'load',
    'placement',
    'network',
    'client',
    'target',
    'journey',
    'offers',
    'plan',
    'capacity',
    'fleet',
    'run',
    'merge',
    'objectives',
    'soundness',
    'result',
    'checks',
    'compare',
    'report',
    'dispatch',
    'formats',
    'elsewhere',
  ],
  control: ['store', 'people', 'link', 'machines', 'hosts', 'library', 'target', 'imports', 'authoring', 'calibration', 'ingest', 'report', 'run', 'elsewhere', 'sharing', 'dispatch', 'assembly'],
}
const rooms = Object.entries(ROOMS).flatMap(([folder, order]) => [
  ...order.slice(0, -1).map((room, i) => ({
    name: `${folder}-${room}-imports`,
    severity: 'error',
    comment: `${folder}/${room} may import only ${[...order.slice(0, i), 'itself'].join(', ')} in ${folder}/`,
    from: { path: `^${folder}/${room}/` },
    to: { path: `^${folder}/(${order.slice(i + 1).join('|')})/` },
  })),
  {
    name: `${folder}-rooms`,
    severity: 'error',
    comment: `a folder in ${folder}/ has its place in the order of rooms`,
    from: { path: `^${folder}/(?!(${order.join('|')})/)[^/]+/` },
    to: {},
  },
])

module.exports = {
  forbidden: [
    ...rooms,
    {
      name: 'control-is-put-together-last',
      severity: 'error',
      comment: 'the coordinator puts the rooms together; none of them knows it',
      from: { path: '^control/[^/]+/' },
      to: { path: '^control/(coordinator|meeting-place)\\.ts$' },
    },
    ...Object.entries(may).map(([from, to]) => ({
      name: `${from}-imports`,
      severity: 'error',
      comment: `${from}/ may import ${to.length ? to.join(', ') : 'nothing else of ours'}`,
      from: { path: `^${from}/` },
      to: { path: `^(${OURS.filter(o => o !== from && !to.includes(o)).join('|')})/` },
    })),
    {
      name: 'core-is-pure',
      severity: 'error',
      comment: 'core/ uses no Node, no interface, no database; of packages only those that are pure themselves',
      from: { path: '^core/' },
      to: {
        dependencyTypes: ['core', 'npm', 'npm-dev'],
        pathNot: 'node_modules/(mustache|re2js|json-p3|yaml|ajv|fflate|papaparse|fast-xml-parser|ipaddr.js)/',
      },
    },
    {
      name: 'no-circles',
      severity: 'error',
      comment: 'nothing may import itself in a circle',
      from: {},
      to: { circular: true, dependencyTypesNot: ['type-only'] },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(\\.nuxt|\\.output|dist)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: join(__dirname, 'tsconfig.node.json') },
    enhancedResolveOptions: { extensions: ['.ts', '.mts', '.js', '.mjs', '.vue', '.sql'] },
  },
}
