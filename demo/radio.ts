import { EMPTY_STATUS } from '$contract/engine-status';
import type { App } from '$service/app';
import { RadioDesk } from '$service/radio/desk';
import { corrections, limitSets, noiseSources } from '$service/radio/shelf';
import { QUAY, QUAY_SOURCE } from '$engine/units/receiver/chain';
import { openStandIn } from '$engine/units/receiver/driver';
import type { OpenUnit } from '$engine/units/driver';
import { listUnits } from '$store/entities';

/** Step of the receiver while it is listened to faster than real time, ns. */
const STEP_NS = 20_000_000n;

/** Factor of the antenna that stands three metres from the cabinet, MHz and dB/m. */
const BOW_ANTENNA = [[30, 14], [48, 9], [80, 12], [96, 14], [145, 15.5], [192, 17], [240, 16], [300, 17.5], [432, 20.5], [600, 22.5], [864, 26], [1000, 27]] as const; // prettier-ignore
const limit = (rows: readonly (readonly [number, number])[]) =>
  rows.map(([mhz, level]) => ({ hz: mhz * 1e6, level }));
/** Below 30 MHz at the supply, above it the field. */
const CABINET_LIMITS = {
  name: 'the drive cabinet’s limits',
  lines: [
    { detector: 'quasi-peak' as const, points: limit([[0.15, 66], [0.5, 56], [5, 56], [5, 60], [30, 60]]) }, // prettier-ignore
    { detector: 'average' as const, points: limit([[0.15, 56], [0.5, 46], [5, 46], [5, 50], [30, 50]]) }, // prettier-ignore
    { detector: 'quasi-peak' as const, points: limit([[30, 40], [230, 40], [230, 47], [1000, 47]]) }, // prettier-ignore
  ],
};

/** Seeds what was measured with the receiver: the stand-in measures it, as it would live. */
export async function seedRadio(app: App, serial: string): Promise<void> {
  noiseSources(app).put(
    { serial: 'NS-07', name: 'Quay source', calibrated: '2026-03-18', points: [...QUAY_SOURCE] },
    'bench',
  );
  corrections(app).put(
    {
      name: 'pier cable, 12 m',
      kind: 'cable loss',
      measured: '2026-04-02',
      expanded: 0.3,
      points: [0.15, 1, 10, 30, 100, 300, 1000].map((mhz) => ({
        hz: mhz * 1e6,
        db: Number((0.055 * Math.sqrt(mhz) + 0.0006 * mhz).toFixed(3)),
      })),
    },
    'bench',
  );
  const points = (rows: readonly (readonly [number, number])[]) =>
    rows.map(([mhz, db]) => ({ hz: mhz * 1e6, db }));
  corrections(app).put(
    {
      name: 'bow antenna, 3 m',
      kind: 'antenna factor',
      measured: '2026-02-11',
      expanded: 1.6,
      points: points(BOW_ANTENNA),
    },
    'bench',
  );
  corrections(app).put(
    { name: 'coupling network', kind: 'coupling network', measured: '2026-02-11', expanded: 0.9, points: points([[0.15, 0.1], [5, 0.1], [30, 0.4]]) }, // prettier-ignore
    'bench',
  );
  limitSets(app).put(CABINET_LIMITS, 'bench');
  const started = BigInt(Date.now()) * 1_000_000n;
  const unit = openStandIn(
    listUnits(app.db).find((u) => u.serial === serial)!,
    started,
  );
  app.live.setStatus({
    ...EMPTY_STATUS,
    units: [{ description: unit.describe(), answering: true, says: '' }],
  });
  const desk = new RadioDesk(app);
  const { engine } = app;
  app.engine = {
    command: (command) => {
      if (command.do === 'gather')
        unit.gather!(command.wish, (heard) => {
          if ('gathering' in heard) desk.gatherings.told(serial, heard.gathering);
        });
      return Promise.resolve();
    },
  };
  let now = started;
  const beat = setInterval(() => unit.poll((now += STEP_NS)), 0);
  try {
    await seedNoise(desk, unit, serial);
    await seedEmissions(desk, unit, serial);
  } finally {
    clearInterval(beat);
    desk.close();
    unit.close();
    app.engine = engine;
    app.live.setStatus(EMPTY_STATUS);
  }
}

async function seedNoise({ noise }: RadioDesk, unit: OpenUnit, serial: string): Promise<void> {
  noise.change(serial, { points: 31, source: 'NS-07', room: QUAY.roomK, before: QUAY.before, behind: QUAY.behind, wanted: 2.5 }); // prettier-ignore
  noise.changeDevice(serial, 'LNA-01');
  const measure = async (state: Parameters<typeof noise.measure>[1][number], input: number, on: number) => {
    unit.setControl!('input', input);
    unit.setControl!('source', on);
    await noise.measure(serial, [state], 'bench');
    while (noise.views()[0].running) await new Promise((r) => setTimeout(r, 5));
  };
  await measure('own on', 1, 1);
  await measure('own off', 1, 0);
  await measure('through off', 2, 0);
  await measure('through on', 2, 1);
  noise.changeDevice(serial, 'LNA-02');
}

async function seedEmissions({ emissions }: RadioDesk, unit: OpenUnit, serial: string): Promise<void> {
  unit.setControl!('input', 3);
  // The gaps are where nothing of this drive was ever found.
  const own = emissions.views()[0].settings.ranges;
  const ranges = [...own.slice(0, 5), { ...own[5], to: 260 }, { ...own[6], from: 425, to: 440 }].map((r) => ({
    ...r,
    through: r.to <= 30 ? ['coupling network'] : ['pier cable, 12 m', 'bow antenna, 3 m'],
  }));
  emissions.change(serial, { device: 'the pitch drive', limits: CABINET_LIMITS.name, ranges });
  const idle = async () => {
    while (emissions.views()[0].running) await new Promise((r) => setTimeout(r, 5));
  };
  for (const drive of [0, 1]) {
    unit.setControl!('drive', drive);
    emissions.look(serial, drive === 0, 'bench');
    await idle();
  }
  // The worst are measured; the others are left to whoever tries it.
  emissions.measure(emissions.runs().at(-1)!.id, serial, [1, 2, 3, 4]);
  await idle();
}
