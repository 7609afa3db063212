/* The doors of docs/decisions/house.md: who may import whom. */
import { readdirSync } from 'node:fs';

const rooms = [
  'linear',
  'picture',
  'correction',
  'lens',
  'profile',
  'stance',
  'ease',
  'warp',
  'crop',
  'delivery',
  'job',
  'raster',
  'fill',
  'find',
  'sheet',
  'readings',
  'edit',
  'marks',
];
/** Rooms of the core that each room may import, beside itself; everyone may import the correction's types. */
const mayImport = {
  linear: [],
  picture: ['linear'],
  correction: ['picture'],
  lens: ['linear', 'picture', 'correction'],
  profile: ['linear', 'picture', 'correction', 'lens'],
  stance: ['linear', 'picture', 'correction', 'lens'],
  ease: ['linear', 'picture', 'correction'],
  warp: ['linear', 'picture', 'correction', 'lens', 'stance', 'ease'],
  crop: ['linear', 'picture', 'correction', 'lens', 'stance', 'ease', 'warp'],
  delivery: ['picture', 'correction', 'warp', 'crop'],
  job: ['picture', 'delivery'],
  raster: ['linear', 'picture', 'correction', 'warp', 'crop'],
  fill: ['picture', 'correction', 'warp', 'crop', 'raster'],
  readings: ['linear', 'picture', 'correction', 'lens', 'stance', 'ease', 'warp', 'crop', 'fill'],
  find: ['linear', 'picture', 'correction', 'lens', 'stance', 'warp', 'crop', 'raster'],
  sheet: ['linear', 'picture', 'correction', 'raster', 'find'],
  edit: ['linear', 'picture', 'correction', 'lens', 'profile', 'stance', 'ease', 'warp', 'crop', 'fill', 'readings'],
  marks: ['linear', 'picture', 'correction', 'lens', 'stance', 'ease', 'warp', 'crop', 'edit'],
};

/** Rooms that the doors know must be there, and those that are there must be known. */
const known = (folder, names) => {
  const there = readdirSync(new URL(folder, import.meta.url), { withFileTypes: true }).filter((entry) => entry.isDirectory());
  const odd = there.map((entry) => entry.name).filter((name) => !names.includes(name));
  const gone = names.filter((name) => !there.some((entry) => entry.name === name));
  if (odd.length + gone.length > 0)
    throw new Error(`${folder}: rooms without doors: ${odd.join(', ')}; doors without rooms: ${gone.join(', ')}`);
};
known('core/src/', rooms);

const screens = ['bench', 'start', 'contact-sheet', 'lens-cabinet'];
/** Rooms of the application that each room may not import. */
const appDoors = {
  state: [...screens, 'scan', 'ui', 'work', 'keeper', 'shelf', 'export', 'theme', 'keys'],
  work: [...screens, 'scan', 'ui', 'state', 'keeper', 'shelf', 'export', 'theme', 'keys'],
  shelf: [...screens, 'scan', 'ui', 'work', 'keeper', 'export', 'theme', 'keys'],
  keeper: [...screens, 'scan', 'ui', 'export', 'theme', 'keys'],
  export: [...screens, 'shelf', 'keys', 'scan'],
  scan: [...screens, 'shelf', 'export', 'keys', 'theme'],
  ui: [...screens, 'scan', 'state', 'shelf', 'work', 'keeper', 'export', 'keys'],
  theme: [...screens, 'scan', 'ui', 'state', 'shelf', 'work', 'keeper', 'export', 'keys'],
  // what a person set for the keys lies in the state; everything shown comes from ui
  keys: [...screens, 'scan', 'shelf', 'work', 'keeper', 'export'],
  // only the keeper knows the shelf; a screen knows no other one
  ...Object.fromEntries(screens.map((screen) => [screen, ['shelf', ...screens.filter((other) => other !== screen)]])),
};

known('app/src/app/', Object.keys(appDoors));

const test = '\\.test\\.ts$';

export default {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-missing',
      severity: 'error',
      from: { pathNot: 'tsx' },
      to: { couldNotResolve: true, pathNot: '^(@angular|@ngrx|rxjs|tsx)' },
    },
    ...rooms.map((room) => ({
      name: `core-${room}`,
      severity: 'error',
      from: { path: `^core/src/${room}/`, pathNot: test },
      to: { path: '^core/src/', pathNot: `^core/src/(${[room, ...mayImport[room]].join('|')})/` },
    })),
    {
      name: 'core-alone',
      severity: 'error',
      from: { path: '^core/src/', pathNot: test },
      to: { path: '^(codecs|app|server|cli|demo|e2e|bench)/' },
    },
    { name: 'core-pure', severity: 'error', from: { path: '^core/src/', pathNot: test }, to: { dependencyTypes: ['core'] } },
    {
      name: 'codecs-core-only',
      severity: 'error',
      from: { path: '^codecs/src/', pathNot: test },
      to: { path: '^(app|server|cli|demo|e2e|bench)/' },
    },
    { name: 'public-entry', severity: 'error', from: { pathNot: `^core/|${test}` }, to: { path: '^core/src/(?!index\\.ts)' } },
    {
      name: 'codecs-entry',
      severity: 'error',
      from: { pathNot: `^codecs/|${test}` },
      to: { path: '^codecs/src/(?!index\\.ts|node\\.ts)' },
    },
    ...Object.entries(appDoors).map(([room, mayNot]) => ({
      name: `app-${room}`,
      severity: 'error',
      from: { path: `^app/src/app/${room}/`, pathNot: test },
      to: { path: `^app/src/app/(${mayNot.join('|')})/` },
    })),
    {
      name: 'tools-know-their-context',
      comment: 'A tool knows of the bench what its context says; the stage, the steps and the keys know tools by the registry.',
      severity: 'error',
      from: { path: '^app/src/app/bench/tools/', pathNot: test },
      to: { path: '^app/src/app/bench/((stage|steps|sheet|readings|step-string)/|[^/]+\\.ts)' },
    },
    {
      name: 'tools-by-the-registry',
      severity: 'error',
      from: { path: '^app/src/app/bench/((stage|session|sheet|readings|step-string)/|[^/]+\\.ts)', pathNot: test },
      to: { path: '^app/src/app/bench/tools/(?!kit/)[^/]+/' },
    },
    { name: 'no-app-from-outside', severity: 'error', from: { path: '^(server|cli|demo|bench)/' }, to: { path: '^app/' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^(dist|\\.angular|\\.cache)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'require', 'node', 'default', 'types'] },
  },
};
