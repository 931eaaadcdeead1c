import { EMPTY_STATUS } from '$contract/engine-status';
import type { App } from '$service/app';
import { RadioDesk } from '$service/radio/desk';
import { corrections, noiseSources } from '$service/radio/shelf';
import { QUAY, QUAY_SOURCE } from '$engine/units/receiver/chain';
import { openStandIn } from '$engine/units/receiver/driver';
import type { OpenUnit } from '$engine/units/driver';
import { listUnits } from '$store/entities';

/** Step of the receiver while it is listened to faster than real time, ns. */
const STEP_NS = 20_000_000n;

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
