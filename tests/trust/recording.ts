// Records every sample of a counting source in real time until it is killed: argument 1 is the take's path, 2 the channels, 3 the rate.
import { EMPTY_PLAN } from '$contract/plan';
import { Acquisition } from '$engine/acquisition';
import { newSlot } from '$engine/slots';
import { openCountingSource } from '$engine/units/counting-source/driver';
import { UNIT, channel, head } from '../unit/rig';

const [path, channels, rateHz] = process.argv.slice(2);
const clock = () => BigInt(Date.now()) * 1_000_000n;
const slot = newSlot(openCountingSource(UNIT, 'count', Number(channels)), UNIT, 'count');
const acquisition = new Acquisition([slot], {
  frame: () => undefined,
  waves: () => undefined,
  call: () => undefined,
  changed: () => undefined,
  take: ({ state }) => console.log(`take ${state}`),
  note: (kind, says) => kind === 'trouble' && console.log(says),
});
acquisition.configure(
  {
    units: [],
    channels: Array.from({ length: Number(channels) }, (_, k) =>
      channel(`Count ${k + 1}`, 'voltage', `C1/${k + 1}`, {
        rateHz: Number(rateHz),
        range: { min: 0, max: 2 ** 20 },
      }),
    ),
    rules: [],
  },
  clock(),
);
const plan = { ...EMPTY_PLAN, before: 0, longest: null };
acquisition.arm({ head: head(plan), plan, path, by: 'test' });
acquisition.start();
console.log('recording');
const beganNs = clock();
setInterval(() => {
  const nowNs = clock();
  acquisition.step(nowNs);
  console.log(`at ${(nowNs - beganNs) / 1_000_000n}`);
  if (acquisition.status.state === 'Watching') process.exit(3); // the take was given up, which is said above
}, 50);
