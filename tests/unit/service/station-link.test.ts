import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { crc32 } from '$core/field/checks';
import { FarrierError } from '$core/errors';
import { stationModel } from '$core/field/station/model';
import type { RowsPiece, StationState } from '$core/field/station/state';
import { StationDoor } from '$engine/field/station/door';
import { Station } from '$engine/field/station/instrument';
import { FieldLink, InstrumentRefusal } from '$service/field/link';
import { fetchRows, joinedRows } from '$service/field/stations/rows';
import { QUICK, badLine } from '../bad-line';

// Rows and programmes of a station over a line that loses, spoils, reorders and is cut at any byte of any message.
const T0 = Date.parse('2026-11-26T00:00:00Z');
const TEXT = 'station ST-9 wakes every 10 s, rejects 50 Hz\nmeasure "Hour" in "h": volts "5 V" on U1, times 8\nkeep in "short" every 1 min: average of "Hour"; lowest of "Hour" with its time\n'; // prettier-ignore
const NEXT = TEXT + 'keep in "long" every 10 min: sample of "Hour"\n';
const checkOf = (text: string) => crc32(new TextEncoder().encode(text));
function running(minutes: number) {
  let now = T0;
  const station = new Station({ model: stationModel('ST-9')!, serial: 'S', now: () => now, sources: new Map([['U1', { is: 'volts', at: (ms: number) => ((ms - T0) / 3_600_000) % 4 }]]), supply: () => 12, board: () => 10, compileMs: 0 }); // prettier-ignore
  station.send({ check: checkOf(TEXT), total: TEXT.length, from: 0, piece: TEXT });
  station.startCompile({ check: checkOf(TEXT), run: 0 });
  station.state();
  now += minutes * 60_000;
  return { station, door: new StationDoor(station), pass: (m: number) => (now += m * 60_000) };
}
class Kept {
  pieces: RowsPiece[] = [];
  get count(): number {
    return this.pieces.reduce((sum, p) => sum + p.times.length, 0);
  }
  took = (piece: RowsPiece) => {
    expect(piece.from).toBe(this.count);
    this.pieces.push(piece);
  };
}
const truth = ({ station }: ReturnType<typeof running>, table = 'short') => {
  const { run, tables } = station.state();
  return station.rows({ table, run, from: 0, count: tables.find((t) => t.name === table)!.end });
};

describe('rows', () => {
  test('over a line that loses a fifth, flips bits and reorders: every row, once; what does not come through is asked for in shorter answers', async () => {
    for (const seed of [1, 2, 3]) {
      const own = running(2000);
      let longest = 0;
      const door = { answer: (frame: Parameters<StationDoor['answer']>[0], whom: object) => {
        const bytes = own.door.answer(frame, whom);
        longest = Math.max(longest, bytes.length);
        return bytes;
      } }; // prettier-ignore
      const link = new FieldLink(badLine(door, { lose: 0.2, flip: 0.0001, reorder: true }, seed), QUICK);
      const state = await link.state<StationState>();
      const kept = new Kept();
      await fetchRows(link, state.tables[0], state.run, 0, kept.took);
      expect(joinedRows(kept.pieces)).toEqual(truth(own));
      expect(longest).toBeGreaterThan(30_000);
      expect(kept.pieces.length).toBeGreaterThan(4);
      link.close();
    }
  });
  test('cut wherever it may be, and gone on: the rows are the same as without', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 1, max: 50_000 }), { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 1, max: 1e6 }),
        async (cuts, seed) => {
          const own = running(2000);
          const kept = new Kept();
          const go = async (link: FieldLink) => {
            const state = await link.state<StationState>();
            await fetchRows(link, state.tables[0], state.run, kept.count, kept.took);
          };
          for (const cutAfter of cuts) {
            const link = new FieldLink(badLine(own.door, { cutAfter }, seed), { ms: 8, tries: 2 }, 4096);
            await go(link).catch((error: Error) => expect(error).toBeInstanceOf(FarrierError));
          }
          await go(new FieldLink(badLine(own.door, {}), QUICK));
          expect(joinedRows(kept.pieces)).toEqual(truth(own));
        },
      ),
      { numRuns: 20 },
    );
  });
  test('another programme meanwhile, or overwritten meanwhile: said, and nothing is mixed', async () => {
    const own = running(30);
    const link = new FieldLink(badLine(own.door, {}), QUICK);
    const before = await link.state<StationState>();
    const next = NEXT.replace('every 1 min:', 'every 1 min, 10 rows:');
    own.station.send({ check: checkOf(next), total: next.length, from: 0, piece: next });
    own.station.startCompile({ check: checkOf(next), run: before.run });
    const kept = new Kept();
    await expect(fetchRows(link, before.tables[0], before.run, 0, kept.took)).rejects.toThrow(/Another programme runs/); // prettier-ignore
    own.pass(50);
    const now = await link.state<StationState>();
    await expect(fetchRows(link, { ...now.tables[0], end: 30 }, now.run, 0, kept.took)).rejects.toThrow(/overwritten/); // prettier-ignore
    expect(kept.pieces).toEqual([]);
  });
});

test('rows with other columns than the station said are not taken for its own', async () => {
  const own = running(30);
  const link = new FieldLink(badLine(own.door, {}), QUICK);
  const state = await link.state<StationState>();
  const kept = new Kept();
  await expect(fetchRows(link, { ...state.tables[0], columns: [] }, state.run, 0, kept.took)).rejects.toThrow(/Its rows have 3 columns, not 0/); // prettier-ignore
  expect(kept.pieces).toEqual([]);
});

describe('a programme', () => {
  const sendOver = async (link: FieldLink, text: string) => {
    const state = await link.state<StationState>();
    const check = checkOf(text);
    for (let from = 0; from < text.length; from += 40)
      await link.ask('send', { check, total: text.length, from, piece: text.slice(from, from + 40) });
    await link.ask('compile', { check, run: state.run });
  };
  test('sent over a line that loses, spoils and reorders runs as it was written, once', async () => {
    for (const seed of [4, 5]) {
      const own = running(30);
      const { run } = own.station.state();
      const link = new FieldLink(badLine(own.door, { lose: 0.2, flip: 0.0002, reorder: true }, seed), QUICK);
      await sendOver(link, NEXT);
      const state = own.station.state();
      expect(own.station.runs().text).toBe(NEXT);
      expect(state.compile.state).toBe('runs');
      expect(state.run).not.toBe(run);
      link.close();
    }
  });
  test('cut while it is sent: the former runs on with all its rows, or the new one does, whole; sent again it does', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 900 }), fc.integer({ min: 1, max: 1e6 }), async (cutAfter, seed) => {
        const own = running(30);
        const before = own.station.state();
        const link = new FieldLink(badLine(own.door, { cutAfter }, seed), { ms: 8, tries: 2 });
        await sendOver(link, NEXT).catch((error: Error) => expect(error).toBeInstanceOf(FarrierError));
        const state = own.station.state();
        if (state.run === before.run) expect(state).toMatchObject({ check: before.check, tables: [{ end: 30 }] });
        else expect(own.station.runs().text).toBe(NEXT);
        await sendOver(new FieldLink(badLine(own.door, {}), QUICK), NEXT);
        own.station.state();
        expect(own.station.runs().text).toBe(NEXT);
      }), // prettier-ignore
      { numRuns: 25 },
    );
  });
  test('a refusal comes as one, with its reason', async () => {
    const own = running(5);
    const link = new FieldLink(badLine(own.door, {}), QUICK);
    await expect(link.ask('compile', { check: 1, run: own.station.state().run })).rejects.toBeInstanceOf(InstrumentRefusal); // prettier-ignore
    await expect(link.ask('readings', {})).rejects.toThrow(/does not know the message 5/);
  });
});
