// Installs and runs everything: format, lint (with the rooms' import table), types, unit tests, build, browser tests.
// Ends with one line, “N passed, N failed”, counted from the tests that really ran.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
let passed = 0;
let failed = 0;
/** What failed, said once more at the very end, where it is found. */
const failures = [];

const run = (command, args) => spawnSync(command, args, { stdio: 'inherit', env: process.env }).status === 0;

/** A check that is not a test runner counts as one. */
function check(name, command, args) {
  console.log(`\n── ${name}`);
  if (run(command, args)) passed++;
  else {
    failed++;
    failures.push(name);
    console.error(`✗ ${name}`);
  }
}

/** The same for several that wait for nothing but the one before in their row: rows run side by side, and each says what it has to say once it is done. */
async function sideBySide(rows) {
  const one = ([name, command, args]) =>
    new Promise((done) => {
      const said = [];
      const child = spawn(command, args, { env: process.env, stdio: ['ignore', 'pipe', 'pipe'] });
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => said.push(part));
      child.on('error', (error) => said.push(Buffer.from(`${error.message}\n`)));
      child.on('close', (code) => {
        console.log(`\n── ${name}`);
        process.stdout.write(Buffer.concat(said));
        if (code === 0) passed++;
        else {
          failed++;
          failures.push(name);
          console.error(`✗ ${name}`);
        }
        done();
      });
    });
  await Promise.all(
    rows.map(async (row) => {
      for (const check of row) await one(check);
    }),
  );
}

/** A test run counts its own tests; one that could not even start counts as failed. */
function tests(project) {
  console.log(`\n── ${project} tests`);
  const report = join(folder, `${project}.json`);
  const well = run('npx', [
    'vitest',
    'run',
    '--project',
    project,
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ]);
  if (!existsSync(report)) {
    failed++;
    failures.push(`${project} tests did not start`);
    return;
  }
  const { numPassedTests, numFailedTests, numTotalTests, testResults } = JSON.parse(
    readFileSync(report, 'utf8'),
  );
  passed += numPassedTests;
  failed += numFailedTests;
  for (const file of testResults)
    for (const one of file.assertionResults.filter((result) => result.status === 'failed'))
      failures.push(`${file.name}: ${one.fullName}\n${one.failureMessages.join('\n').slice(0, 2000)}`);
  if (!well && numFailedTests === 0) {
    failed++;
    failures.push(`${project}: the run ended in an error outside its tests`);
    for (const file of testResults.filter((result) => result.message))
      failures.push(file.message.slice(0, 2000));
  }
  if (numTotalTests === 0) {
    failed++;
    failures.push(`${project}: no test ran`);
  }
}

/** What the tests need beside Node: a browser with its driver, and pairs of serial lines. From Debian's packages when missing. */
function outside() {
  const missing = () =>
    ['chromium', 'chromedriver', 'socat', 'pdftotext'].filter(
      (program) => !existsSync(`/usr/bin/${program}`),
    );
  if (missing().length === 0) return true;
  console.log(`\n── ${missing().join(', ')} missing: installing from Debian’s packages`);
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', 'chromium', 'chromium-driver', 'poppler-utils', 'socat']);
  if (missing().length === 0) return true;
  console.error(
    '✗ The tests need Chromium, ChromeDriver, poppler-utils and socat: run “apt-get install chromium chromium-driver poppler-utils socat” as root, then this again.',
  );
  return false;
}

if (!existsSync('node_modules/vite')) {
  console.log('── installing packages');
  if (!run('npm', ['ci', '--no-audit', '--no-fund'])) process.exit(1);
}
run('npx', ['svelte-kit', 'sync']);
await sideBySide([
  [
    ['types', 'npx', ['svelte-check', '--tsconfig', './tsconfig.json', '--threshold', 'error']],
    ['types of the core, without DOM or Node', 'npx', ['tsc', '-p', 'src/core/tsconfig.json']],
    ['migrations', 'npx', ['drizzle-kit', 'check']],
  ],
  [
    ['format', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']],
    ['lint and rooms', 'npx', ['eslint', '.', '--concurrency', 'auto']],
  ],
]);
const ready = outside();
if (!ready) {
  failed++;
  failures.push('what the tests need beside Node');
}
tests('unit');
check('build', 'npx', ['vite', 'build', '--logLevel', 'warn']);
if (ready) tests('e2e');

for (const what of failures) console.error(`\n✗ ${what}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
