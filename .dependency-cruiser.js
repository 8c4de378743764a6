/** The folders of each workspace and which of the others each may import (docs/architecture.md). */
const mayImport = {
  'core/src': {
    document: [],
    ledger: [],
    rules: ['document'],
    files: ['document'],
    strand: ['document'],
    acts: ['document', 'rules'],
    compare: ['document', 'files'],
    ruleChange: ['document', 'rules', 'acts'],
    merge: ['document', 'files', 'compare'],
    issue: ['document', 'rules', 'files'],
  },
  'server/src': {
    store: [],
    workers: ['store'],
    access: ['store'],
    content: ['store'],
    standins: [],
    events: ['access', 'store'],
    reads: ['access', 'content', 'standins', 'store', 'workers'],
    acts: ['access', 'content', 'reads', 'standins', 'store', 'workers'],
    jobs: ['access', 'content', 'store', 'acts'],
    protocols: ['access', 'acts', 'content', 'reads', 'store'],
    http: ['access', 'content', 'events', 'protocols', 'reads', 'acts', 'store', 'workers'],
    serving: ['access'],
    commands: ['acts', 'store'],
  },
  'web/src': {
    ui: [],
    parts: ['ui'],
    // Of the frame, a screen knows what it remembers, not how it is drawn.
    features: ['ui', 'parts', 'app/preferences', 'app/uploads'],
    app: ['ui', 'parts', 'features'],
  },
};

/** Arrows out of one folder; a folder that is not listed may not be there at all. */
const downwards = Object.entries(mayImport).flatMap(([workspace, folders]) => [
  ...Object.entries(folders).map(([folder, below]) => ({
    name: `${workspace}/${folder} imports what stands below it`,
    severity: 'error',
    from: { path: `^${workspace}/${folder}/` },
    to: {
      path: `^${workspace}/[^/]+/`,
      pathNot: [folder, ...below].map((each) => `^${workspace}/${each}[/.]`),
    },
  })),
  {
    name: `every folder of ${workspace} is listed`,
    severity: 'error',
    from: { path: `^${workspace}/(?!(${Object.keys(folders).join('|')})/)[^/]+/` },
    to: {},
  },
]);

export default {
  forbidden: [
    ...downwards,
    {
      name: 'a screen imports no other; what both need is a part',
      severity: 'error',
      from: { path: '^web/src/features/([^/]+)/' },
      to: { path: '^web/src/features/', pathNot: '^web/src/features/$1/' },
    },
    {
      name: 'another workspace is imported by its name',
      severity: 'error',
      from: { path: '^([a-z]+)/' },
      to: { path: '^(core|contract|server|web|cli|demo)/', pathNot: '^$1/' },
    },
    { name: 'nothing goes in a circle, types neither', severity: 'error', from: {}, to: { circular: true } },
  ],
  options: {
    // A test may go through every floor.
    exclude: { path: '/testing/|\\.test\\.tsx?$|/dist/' },
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      extensions: ['.ts', '.tsx', '.js'],
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
    },
  },
};
