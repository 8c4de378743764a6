// Mutants made by hand over server, web and cli: each changes one place, and the tests named with it must
// fail. Tells those that nothing notices. With numbers as arguments, only these.
import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';

const all = JSON.parse(readFileSync('scripts/handMutants.json', 'utf8'));
const chosen = process.argv.slice(2).map(Number);

/** Runs a program; answers whether it ended well. */
const run = (program, ...parts) =>
  spawnSync(program, parts, { stdio: ['ignore', 'ignore', 'ignore'], shell: false }).status === 0;
const compile = () => run(process.execPath, 'node_modules/typescript-native/bin/tsc', '-b');
const bundle = () => run('npm', 'run', 'build', '-w', 'web');

/** Whether tests pass: of the browser by `e2e/name`, on what was built anew, or files of Jest. */
function pass(file, tests) {
  if (!tests.startsWith('e2e/')) return run('npx', 'jest', ...tests.split(' '));
  const [workspace] = file.split('/');
  const isBuilt = workspace === 'web' ? bundle() : compile();
  if (!isBuilt) return false;
  demoAnew();
  return run('npx', 'playwright', 'test', '-c', 'e2e', '--no-deps', `/${tests}`);
}

/** Empties the database and loads the demo: what a test of the browser makes is not there yet. */
function demoAnew() {
  const { hostname, port, username, password, pathname } = new URL(process.env.POLYCHRON_DATABASE_URL ?? '');
  const name = pathname.slice(1);
  execFileSync('mariadb', ['--no-defaults', `--host=${hostname}`, `--port=${port}`, `--user=${username}`], {
    input: `DROP DATABASE ${name}; CREATE DATABASE ${name} CHARACTER SET utf8mb4`,
    env: { ...process.env, MYSQL_PWD: password },
  });
  execFileSync(process.execPath, ['demo/dist/load.js', '--demo'], { stdio: 'ignore' });
}

/** Puts a mutant into its place while something is done. */
function withMutant([file, from, to], act) {
  const text = readFileSync(file, 'utf8');
  if (text.split(from).length !== 2) throw new Error(`${file} has not once: ${from}`);
  const restore = () => writeFileSync(file, text);
  const leave = () => {
    restore();
    process.exit(1);
  };
  process.once('SIGINT', leave);
  process.once('SIGTERM', leave);
  try {
    writeFileSync(
      file,
      text.replace(from, () => to),
    );
    return act();
  } finally {
    restore();
    process.removeListener('SIGINT', leave);
    process.removeListener('SIGTERM', leave);
  }
}

execFileSync('git', ['diff', '--quiet', '--', ...new Set(all.map(([file]) => file))]);
let [caught, tried] = [0, 0];
for (const [at, mutant] of all.entries()) {
  if (chosen.length > 0 && !chosen.includes(at + 1)) continue;
  const [file, from, , tests] = mutant;
  const isCaught = !withMutant(mutant, () => pass(file, tests));
  if (tests.startsWith('e2e/')) (file.startsWith('web/') ? bundle : compile)();
  tried += 1;
  caught += Number(isCaught);
  console.log(`${at + 1} ${isCaught ? 'caught' : 'NOT NOTICED'} ${file}: ${from.trim().slice(0, 70)}`);
}
console.log(`${caught} of ${tried} made by hand are caught`);
