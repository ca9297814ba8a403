/** Who may import whom (docs/how-it-works.md): kept by this rule, not by hope. */
const OURS = ['api', 'app', 'bench', 'cli', 'control', 'core', 'demo', 'generator', 'main', 'protocol', 'server', 'simfleet', 'standins']
const may = {
  core: [],
  protocol: ['core'],
  generator: ['core', 'protocol'],
  simfleet: ['core', 'protocol'],
  api: ['core'],
  control: ['core', 'protocol', 'api'],
  server: ['control', 'api'],
  main: ['control', 'api', 'protocol'],
  cli: ['control', 'api'],
  app: ['api', 'core'],
  standins: [],
}

module.exports = {
  forbidden: [
    ...Object.entries(may).map(([from, to]) => ({
      name: `${from}-imports`, severity: 'error',
      comment: `${from}/ may import ${to.length ? to.join(', ') : 'nothing else of ours'}`,
      from: { path: `^${from}/` }, to: { path: `^(${OURS.filter(o => o !== from && !to.includes(o)).join('|')})/` },
    })),
    { name: 'core-is-pure', severity: 'error', comment: 'core/ uses no Node, no interface, no database; of packages only those that are pure themselves', from: { path: '^core/' }, to: { dependencyTypes: ['core', 'npm', 'npm-dev'], pathNot: 'node_modules/(mustache|re2js|json-p3|yaml|ajv|fflate)/' } },
    { name: 'no-circles', severity: 'error', comment: 'nothing may import itself in a circle', from: {}, to: { circular: true, dependencyTypesNot: ['type-only'] } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' }, exclude: { path: '(^|/)(\\.nuxt|\\.output|dist)/' }, tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.node.json' }, enhancedResolveOptions: { extensions: ['.ts', '.mts', '.js', '.mjs', '.vue', '.sql'] },
  },
}
