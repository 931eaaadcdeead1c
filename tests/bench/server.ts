import { spawn } from 'node:child_process';
import { createServer } from 'node:net';

const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

/** Runs something against the built application on a data folder, once it answers and has measured for a moment. */
export async function withServer(
  data: string,
  work: (base: string, pid: number) => Promise<void>,
): Promise<void> {
  const port = await freePort();
  const base = `http://127.0.0.1:${port}`;
  const server = spawn('node', ['build'], {
    env: {
      ...process.env,
      HOST: '127.0.0.1',
      PORT: String(port),
      ORIGIN: base,
      FARRIER_DATA: data,
      BODY_SIZE_LIMIT: '64M',
      FARRIER_STUDIES: '', // threads, as whoever installs it has them
    },
    stdio: 'ignore',
  });
  try {
    for (let k = 0; k < 200; k++) {
      const answers = await fetch(`${base}/rig`).then(
        (r) => r.ok,
        () => false,
      );
      if (answers) break;
      await new Promise((done) => setTimeout(done, 100));
    }
    await new Promise((done) => setTimeout(done, 3000));
    await work(base, server.pid!);
  } finally {
    const ended = new Promise((done) => server.once('exit', done));
    server.kill('SIGTERM');
    await ended;
  }
}
