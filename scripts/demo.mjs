// Installs, builds, seeds the demo data and starts: everything a fresh machine needs.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { createServer } from 'node:net';

const step = (says, command, args, env = {}) => {
  console.log(`\n${says}`);
  const { status } = spawnSync(command, args, { stdio: 'inherit', env: { ...process.env, ...env } });
  if (status !== 0) {
    console.error(`\nThis step failed: ${command} ${args.join(' ')}`);
    process.exit(status ?? 1);
  }
};

/** The wished port, or a free one when it is taken. */
const freePort = (wished) =>
  new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(freePort(0)));
    server.listen(wished, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });

if (!existsSync('node_modules/vite'))
  step('Installing packages (a few minutes, mostly compiling the database)…', 'npm', [
    'ci',
    '--no-audit',
    '--no-fund',
  ]);
step('Building…', 'npx', ['vite', 'build', '--logLevel', 'warn']);
step('Making the demo data…', 'node', [
  'scripts/run.mjs',
  'demo/seed.ts',
  process.env.FARRIER_DATA ?? 'data',
]);
const host = process.env.HOST ?? '127.0.0.1';
const port = process.env.PORT ?? String(await freePort(4173));
const address = `http://${host}:${port}`;
console.log(`\nFarrier with the demo's world: ${address}\nStop it with Ctrl+C.\n`);
// The cradle with its pocket recorders and the station on the pier are instruments by themselves: processes of their own.
const instrument = (...args) =>
  spawn('node', ['scripts/run.mjs', ...args], { stdio: ['ignore', 'ignore', 'inherit'] });
const cradlePort = String(await freePort(4710));
const stationPort = String(await freePort(4720));
const instruments = [
  instrument('src/engine/field/process.ts', cradlePort, '1', '3'),
  instrument('src/engine/field/station/process.ts', stationPort, '1', 'ST-9', '40'),
];
const server = spawn('node', ['build'], {
  stdio: 'inherit',
  env: {
    ...process.env,
    HOST: host,
    PORT: port,
    ORIGIN: process.env.ORIGIN ?? address,
    BODY_SIZE_LIMIT: '64M',
    FARRIER_CRADLE: process.env.FARRIER_CRADLE ?? `127.0.0.1:${cradlePort}`,
    FARRIER_STATION: process.env.FARRIER_STATION ?? `Pier station, Harrow Quay=127.0.0.1:${stationPort}`,
  },
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill('SIGTERM'));
server.on('exit', (code) => {
  for (const one of instruments) one.kill('SIGTERM');
  process.exit(code ?? 0);
});
