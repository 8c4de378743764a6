import { readdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { performance } from 'node:perf_hooks';
import { join, relative } from 'node:path';
import {
  DryRunStatus,
  TestStatus,
  determineHitLimitReached,
  toMutantRunResult,
} from '@stryker-mutator/api/test-runner';
import { PluginKind, declareClassPlugin } from '@stryker-mutator/api/plugin';

const require = createRequire(import.meta.url);
const Module = require('node:module');
const swc = require('@swc/core');
const { bind } = require('jest-each');
const { expect } = require('expect');

/** Rounds of each property, the same each time: every test runs thousands of times. */
const mostRounds = 60;
/** Where the tests lie that look at what is mutated. */
const folders = ['rules', 'acts', 'compare', 'ruleChange', 'document'].map((name) => `core/src/${name}`);

/** What the mutation tester and the mutated code share. */
const shared = (globalThis.__stryker__ ??= {});

/** TypeScript is compiled as it is required, properties run a few rounds. */
function prepareLoading() {
  const options = {
    jsc: { target: 'es2022', parser: { syntax: 'typescript' } },
    module: { type: 'commonjs' },
  };
  const compiled = new Map();
  Module._extensions['.ts'] = (module, file) => {
    if (!compiled.has(file)) compiled.set(file, swc.transformFileSync(file, options).code);
    module._compile(compiled.get(file), file);
  };
  const fastCheck = require('fast-check');
  const few = (given = {}) => ({ seed: 1, ...given, numRuns: Math.min(given.numRuns ?? 100, mostRounds) });
  const assert = (property, given) => fastCheck.assert(property, few(given));
  const load = Module._load;
  const instead = {
    'fast-check': { ...fastCheck, __esModule: true, assert, default: { ...fastCheck.default, assert } },
  };
  Module._load = (name, ...rest) => instead[name] ?? load(name, ...rest);
}

/** Gathers the tests of files as the files are loaded; a small part of what Jest offers. */
class Tests {
  all = [];
  #groups = [{ name: '', before: [] }];
  #file = '';

  constructor() {
    const test = (name, run) => {
      const title = [this.#file, ...this.#groups.map((group) => group.name).filter(Boolean), name].join(' ');
      this.all.push({ id: title, run, groups: [...this.#groups], took: 0 });
    };
    const describe = (name, fill) => {
      this.#groups.push({ name, before: [] });
      fill();
      this.#groups.pop();
    };
    const beforeAll = (run) => this.#groups.at(-1).before.push(run);
    Object.assign(globalThis, {
      expect,
      beforeAll,
      afterAll: () => undefined,
      test: Object.assign(test, { each: bind(test) }),
      describe: Object.assign(describe, { each: bind(describe) }),
    });
  }

  load(files) {
    for (const file of files) {
      this.#file = relative(process.cwd(), file);
      this.#groups = [{ name: '', before: [] }];
      require(file);
    }
  }
}

async function fails({ run, groups }) {
  try {
    for (const group of groups) for (const first of group.before.splice(0)) await first();
    await run();
    return null;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}

/** Runs the tests of the computation in this process; it has no state, so a mutant is switched on and off. */
class InProcess {
  #tests = null;
  #isMutated = false;

  capabilities() {
    return { reloadEnvironment: true };
  }

  init() {
    prepareLoading();
  }

  #load() {
    for (const file of Object.keys(require.cache)) if (file.endsWith('.ts')) delete require.cache[file];
    const files = folders
      .flatMap((folder) => readdirSync(folder).map((name) => join(process.cwd(), folder, name)))
      .filter((file) => file.endsWith('.test.ts'));
    this.#tests = new Tests();
    this.#tests.load(files.sort());
  }

  async #run(tests, bail) {
    const told = [];
    for (const test of tests) {
      shared.currentTestId = test.id;
      const start = performance.now();
      const failure = await fails(test);
      const timeSpentMs = performance.now() - start;
      const about = { id: test.id, name: test.id, timeSpentMs };
      told.push(
        failure === null
          ? { ...about, status: TestStatus.Success }
          : { ...about, status: TestStatus.Failed, failureMessage: failure },
      );
      test.took = Math.max(test.took, timeSpentMs);
      if (failure !== null && bail) break;
    }
    shared.currentTestId = undefined;
    return { status: DryRunStatus.Complete, tests: told };
  }

  async dryRun() {
    this.#load();
    const result = await this.#run(this.#tests.all, false);
    const { mutantCoverage } = shared;
    // What fails the second time has a state, and would tell of mutants that it does not notice.
    const again = await this.#run(this.#tests.all, false);
    const changed = again.tests.filter(({ status }, at) => status !== result.tests[at].status);
    if (changed.length > 0) {
      const errorMessage = changed.map(({ name, failureMessage }) => `${name}: ${failureMessage}`).join('\n');
      return { status: DryRunStatus.Error, errorMessage };
    }
    return { ...result, mutantCoverage };
  }

  async mutantRun({ activeMutant, testFilter, disableBail, hitLimit, mutantActivation }) {
    const isStatic = mutantActivation === 'static';
    shared.hitLimit = hitLimit;
    shared.hitCount = hitLimit === undefined ? undefined : 0;
    shared.activeMutant = isStatic ? activeMutant.id : undefined;
    try {
      if (isStatic || this.#isMutated || !this.#tests) this.#load();
    } catch (error) {
      return toMutantRunResult(failedToLoad(error), disableBail);
    } finally {
      this.#isMutated = isStatic;
    }
    shared.activeMutant = activeMutant.id;
    const wanted = testFilter && new Set(testFilter);
    const tests = this.#tests.all.filter(({ id }) => !wanted || wanted.has(id));
    const result = await this.#run(
      tests.sort((a, b) => a.took - b.took),
      !disableBail,
    );
    shared.activeMutant = undefined;
    const endless = determineHitLimitReached(shared.hitCount, shared.hitLimit);
    return toMutantRunResult(endless ?? result, disableBail);
  }
}

/** A mutant by which a file cannot even be loaded is noticed by every test. */
const failedToLoad = (error) => ({
  status: DryRunStatus.Complete,
  tests: [
    {
      id: 'loading',
      name: 'loading',
      timeSpentMs: 0,
      status: TestStatus.Failed,
      failureMessage: String(error),
    },
  ],
});

export const strykerPlugins = [declareClassPlugin(PluginKind.TestRunner, 'in-process', InProcess)];
