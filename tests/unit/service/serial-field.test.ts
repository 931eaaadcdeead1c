import { mkdtempSync, realpathSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import type { StationState } from '$core/field/station/state';
import { listenSerial } from '$engine/field/doors';
import { PlayedCradle, World, quayRecorders } from '$engine/field/play';
import { PIER_PROGRAMME, PlayedStation } from '$engine/field/station/pier';
import { openLink } from '$service/field/lines';
import { fetchReadings } from '$service/field/link';
import { fetchRows, joinedRows } from '$service/field/stations/rows';
import { ptyPair } from '../pty';

// The same instruments over a serial line.
const closing: (() => unknown)[] = [];
const folder = mkdtempSync(join(tmpdir(), 'farrier-serial-'));
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
  rmSync(folder, { recursive: true, force: true });
});

test('a station and a cradle are reached by a serial port as they are over the network; a port that is not there is said', async () => {
  const world = new World(1, Date.parse('2026-11-27T09:00:00Z'));
  const station = new PlayedStation('ST9-0021', 'ST-9', world).runSince(PIER_PROGRAMME, 1);
  const { ours, theirs, process } = await ptyPair(folder, closing);
  closing.push(await listenSerial(station, theirs));
  const link = await openLink(realpathSync(ours));
  closing.push(() => link.close());
  expect(await link.hello()).toMatchObject({ serial: 'ST9-0021' });
  const state = await link.state<StationState>();
  const quarter = state.tables.find((t) => t.name === 'quarter')!;
  const pieces: Parameters<typeof joinedRows>[0][number][] = [];
  await fetchRows(link, quarter, state.run, quarter.first, (piece) => void pieces.push(piece));
  const rows = joinedRows(pieces);
  expect(rows.times).toHaveLength(quarter.end - quarter.first);
  // Answers are short enough for such a line.
  expect(Math.max(...pieces.map((p) => p.values.byteLength))).toBeLessThan(4096);
  expect([...rows.times]).toEqual(Array.from(rows.times, (_, i) => rows.times[0] + i * 900_000));
  // Pulled out: the line tells its end.
  process.kill();
  await expect(link.hello()).rejects.toThrow(/does not answer/);

  const second = await ptyPair(folder, closing);
  const recorders = quayRecorders(world, 0);
  const cradle = new PlayedCradle(recorders, world);
  cradle.put(recorders[2]);
  closing.push(await listenSerial(cradle, second.theirs, 57_600));
  const line = await openLink(`${realpathSync(second.ours)}@57600`);
  closing.push(() => line.close());
  const said = await line.state();
  let count = 0;
  await fetchReadings(line, said, said.first, ({ values, width }) => (count += values.length / width));
  expect(count).toBe(said.end - said.first);
  await expect(openLink('/dev/not-there')).rejects.toThrow(/cannot be opened/);
}, 30_000);
