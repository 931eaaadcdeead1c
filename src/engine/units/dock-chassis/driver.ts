import { FarrierError, badInput, notFound } from '$core/errors';
import { rateFromHz, samplesBefore, type Rate } from '$core/time/rate';
import type { Fault, StandInControl } from '$contract/unit';
import {
  described,
  groupByRate,
  type AcquireRequest,
  type OpenUnit,
  type RawBlock,
  type UnitDriver,
} from '../driver';
import { Feel } from '../feel';
import { Rotor, STEP_S, type RotorState } from './rotor';
import { TerminalSignal, type Scene } from './signals';
import { MODULES, RAW_UNIT, WIRED } from './wiring';

const NS = 1e9;

interface Group {
  rate: Rate;
  startNs: bigint;
  delivered: number;
  requests: AcquireRequest[];
  signals: TerminalSignal[];
  buffers: Float32Array[];
}

export interface DockOptions {
  seed?: number;
  tidePhaseS?: number;
  initial?: Partial<RotorState>;
  brakeA?: number;
  faults?: Record<string, Fault>;
  lifted?: boolean;
}

/** The chassis on the dock rig, simulated down to its terminals. Its time is what poll() is given, so it runs in real time or as fast as
 *  it is asked to, with the same result. */
export function openDockChassis(
  serial: string,
  name: string,
  nowNs: bigint,
  options: DockOptions = {},
): OpenUnit {
  const seed = options.seed ?? 4172;
  const rotor = new Rotor(seed, options.tidePhaseS, options.initial);
  const faults: Record<string, Fault> = { ...options.faults };
  const outputs: Record<string, number> = { [WIRED.brake]: (options.brakeA ?? 6) / 2, [WIRED.pump]: 1 };
  const list: StandInControl[] = [
    { id: 'plugged', label: 'Plugged in', unit: 'yes/no', min: 0, max: 1, value: 1 },
    {
      id: 'wireMm',
      label: 'Draw-wire pulled to',
      unit: 'mm',
      min: -1,
      max: 200,
      value: -1,
      terminal: WIRED.drawWire,
    },
    {
      id: 'lifted',
      label: 'Rotor lifted out of the water',
      unit: 'yes/no',
      min: 0,
      max: 1,
      value: options.lifted ? 1 : 0,
      moves: ['bridge'],
    },
    {
      id: 'touched',
      label: 'Somebody leans on blade 1',
      unit: 'yes/no',
      min: 0,
      max: 1,
      value: 0,
      moves: ['bridge'],
    },
    {
      id: 'shaker',
      label: 'Calibrator on it, 10 m/s² rms',
      unit: 'yes/no',
      min: 0,
      max: 1,
      value: 0,
      terminal: WIRED.foreAft,
    },
    { id: 'doorOpen', label: 'Guard door open', unit: 'yes/no', min: 0, max: 1, value: 0 },
    {
      id: 'heat',
      label: 'Heat on the bearings',
      unit: 'K',
      min: 0,
      max: 60,
      value: 0,
      moves: ['thermocouple'],
    },
  ];
  const controls = new Map(list.map((c) => [c.id, c]));
  const shunts = new Set<string>();
  const wireFeel = new Feel(0.12, 0.08);
  let feltS = NaN;
  let wire = -1;
  const originNs = nowNs;
  let groups: Group[] = [];
  let before: RotorState = { ...rotor.state };
  const scene: Scene = {
    timeS: 0,
    rotor: { ...rotor.state },
    hand: { wireMm: NaN, doorOpen: false, heat: 0, lifted: false, touched: false, shaker: false },
    brakeA: 0,
    pumpOn: true,
    junction: 21,
  };
  const control = (id: string) => controls.get(id)!.value;

  /** Puts the scene to a time: steps the rotor past it, then interpolates between its last two states. */
  function moveTo(timeS: number): void {
    while (rotor.timeS < timeS) {
      before = { ...rotor.state };
      rotor.step(scene.brakeA, scene.pumpOn, scene.hand.heat);
    }
    const share = Math.min(1, Math.max(0, 1 - (rotor.timeS - timeS) / STEP_S));
    // Written out: this runs for every sample, and a loop over keys takes most of the model's time.
    const from = before;
    const to = rotor.state;
    const now = scene.rotor;
    now.flow = from.flow + (to.flow - from.flow) * share;
    now.azimuth = from.azimuth + (to.azimuth - from.azimuth) * share;
    now.speed = from.speed + (to.speed - from.speed) * share;
    now.torque = from.torque + (to.torque - from.torque) * share;
    now.thrust = from.thrust + (to.thrust - from.thrust) * share;
    now.bearingDrive = from.bearingDrive + (to.bearingDrive - from.bearingDrive) * share;
    now.bearingFree = from.bearingFree + (to.bearingFree - from.bearingFree) * share;
    now.seal = from.seal + (to.seal - from.seal) * share;
    now.cabinet = from.cabinet + (to.cabinet - from.cabinet) * share;
    if (wire >= 0) scene.hand.wireMm = wireFeel.step(wire, Math.max(0, timeS - feltS) || 0);
    else scene.hand.wireMm = NaN;
    feltS = timeS;
    scene.timeS = timeS;
    scene.junction = scene.rotor.cabinet + 1.2;
  }

  function takeInputs(): void {
    wire = control('wireMm');
    scene.hand.lifted = control('lifted') > 0.5;
    scene.hand.touched = control('touched') > 0.5;
    scene.hand.shaker = control('shaker') > 0.5;
    scene.hand.doorOpen = control('doorOpen') > 0.5;
    scene.hand.heat = control('heat');
    scene.brakeA = outputs[WIRED.brake] * 2;
    scene.pumpOn = outputs[WIRED.pump] > 0.5;
  }

  function answering(): void {
    if (control('plugged') > 0.5) return;
    throw new FarrierError('unavailable', {
      what: 'The unit does not answer.',
      where: name,
      why: 'Its plug is out.',
      next: 'Plug it in again: it is found by itself.',
    });
  }

  return {
    describe: () =>
      described(
        { serial, kind: 'dock chassis', name },
        {
          firmware: '1.4',
          calibratedUntil: '2027-03-14',
          temperature: Math.round((scene.rotor.cabinet + 6) * 2) / 2,
          modules: MODULES,
          controls: [...controls.values()],
          faults,
          standIn: true,
          abilities: ['self-test', 'reset'],
        },
      ),
    start(requests, startNs) {
      answering();
      groups = [...groupByRate(requests, MODULES)].map(([rateHz, list]) => {
        if (list.length * rateHz > 4e6)
          throw badInput(
            'sample rate',
            `${list.length} × ${rateHz} S/s`,
            'The chassis carries 4 MS/s in all: choose lower rates.',
          );
        return {
          rate: rateFromHz(rateHz),
          startNs,
          delivered: 0,
          requests: list,
          signals: list.map((r) => {
            const signal = new TerminalSignal(r.terminal, rateHz, r.kind === 'platinum sensor', seed);
            signal.fault = faults[r.terminal] ?? 'none';
            signal.shunted = shunts.has(r.terminal);
            return signal;
          }),
          buffers: list.map(() => new Float32Array(1024)),
        };
      });
      return groups.map(({ rate, requests: list }) => ({ rate, startNs, requests: list }));
    },
    poll(nowNs) {
      answering();
      takeInputs();
      const due = groups.map((g) => samplesBefore(g.rate, nowNs - g.startNs));
      const blocks: RawBlock[] = groups.map((g, k) => {
        const count = Math.max(0, due[k] - g.delivered);
        if (g.buffers[0].length < count) g.buffers = g.signals.map(() => new Float32Array(count * 2));
        return {
          group: k,
          firstIndex: g.delivered,
          count,
          columns: g.buffers.map((b) => b.subarray(0, count)),
          trouble: g.signals.map((s) => s.trouble),
        };
      });
      // All groups advance together through the model's steps, so that each sees the rotor at its own sample times.
      const written = groups.map(() => 0);
      const times = groups.map((g) => Number(g.startNs - originNs) / NS);
      const periods = groups.map((g) => g.rate.den / g.rate.num);
      const endS = Number(nowNs - originNs) / NS;
      let untilS = rotor.timeS;
      while (untilS < endS + STEP_S) {
        groups.forEach((g, k) => {
          const block = blocks[k];
          for (; written[k] < block.count; written[k]++) {
            const timeS = times[k] + (g.delivered + written[k]) * periods[k];
            if (timeS > untilS) break;
            moveTo(timeS);
            for (let c = 0; c < g.signals.length; c++)
              block.columns[c][written[k]] = g.signals[c].sample(scene);
          }
        });
        if (untilS >= endS) break;
        before = { ...rotor.state };
        rotor.step(scene.brakeA, scene.pumpOn, scene.hand.heat);
        untilS = rotor.timeS;
      }
      groups.forEach((g, k) => {
        g.delivered += blocks[k].count;
        // The module knows an open input: what its converter reads there is no measurement.
        g.signals.forEach((signal, c) => signal.trouble === 'open' && blocks[k].columns[c].fill(NaN));
      });
      return blocks.filter((b) => b.count > 0);
    },
    setOutput(terminal, value) {
      answering();
      if (!MODULES[5].terminals.some((t) => t.id === terminal))
        throw badInput('output', terminal, 'Choose an output of module A6.');
      if (!(Math.abs(value) <= 10))
        throw badInput('output value', `${value} V`, 'The output gives −10 to 10 V.');
      outputs[terminal] = value;
    },
    probe(terminal, as) {
      answering();
      const module = terminal.split('/')[0];
      if (!RAW_UNIT[module]) throw notFound('terminal', terminal);
      takeInputs();
      const resistance = as ? as.kind === 'platinum sensor' : terminal === WIRED.sealWater;
      const signal = new TerminalSignal(terminal, 50, resistance, seed + Math.round(rotor.timeS * 1000));
      signal.fault = faults[terminal] ?? 'none';
      signal.shunted = shunts.has(terminal);
      const free = !(Object.values(WIRED).flat() as string[]).includes(terminal);
      let sum = 0;
      let squares = 0;
      const samples = 50;
      for (let i = 0; i < samples; i++) {
        const value = module === 'A6' ? (outputs[terminal] ?? 0) : signal.sample(scene);
        sum += value;
        squares += value * value;
      }
      const mean = sum / samples;
      return {
        unit: resistance
          ? 'Ω'
          : terminal === WIRED.flowMeter
            ? 'mA'
            : terminal === WIRED.guardDoor
              ? '1'
              : RAW_UNIT[module],
        mean,
        noise: Math.sqrt(Math.max(0, squares / samples - mean * mean)),
        samples,
        trouble: signal.trouble,
        remark:
          free && module !== 'A6'
            ? 'Nothing is connected: the input floats and shows noise, these numbers mean nothing.'
            : null,
        ...(module === 'A2' && { shunt: shunts.has(terminal) }),
        ...(module === 'A6' && { output: outputs[terminal] ?? 0 }),
        ...(module === 'A3' && { biasV: free || signal.trouble === 'open' ? 24 : 11.4 }),
      };
    },
    shunt(terminal, on) {
      answering();
      if (!MODULES[1].terminals.some((t) => t.id === terminal))
        throw new FarrierError('not_allowed', {
          what: 'There is no shunt at this terminal.',
          where: `${name} ${terminal}`,
          next: 'Wire the bridge to module A2, which has one.',
        });
      if (on) shunts.add(terminal);
      else shunts.delete(terminal);
      for (const g of groups) for (const s of g.signals) if (s.terminal === terminal) s.shunted = on;
    },
    tryOut(terminal, act) {
      if (act.set === 'shunt') return this.shunt!(terminal, act.on);
      if (act.set !== 'value')
        throw badInput('try-out', act.set, `Terminal ${terminal} has nothing of that kind.`);
      this.setOutput(terminal, act.value);
    },
    selfTest() {
      answering();
      const broken = Object.entries(faults).filter(([, fault]) => fault !== 'none');
      const checks = MODULES.map((m) => {
        const at = broken.filter(([terminal]) => terminal.startsWith(`${m.id}/`));
        return {
          what: `${m.id} ${m.title}`,
          ok: at.length === 0,
          says:
            at.map(([t, fault]) => `${t}: ${fault}`).join(', ') ||
            'converter, reference and supply within limits',
        };
      });
      return { ok: checks.every((c) => c.ok), atMs: Date.now(), tookMs: 0, checks };
    },
    reset() {
      answering();
      for (const key of Object.keys(outputs)) delete outputs[key];
      Object.assign(outputs, { [WIRED.brake]: 3, [WIRED.pump]: 1 });
      for (const terminal of [...shunts]) this.shunt!(terminal, false);
    },
    setControl(id, value) {
      const found = controls.get(id);
      if (!found) throw notFound('control', id);
      if (!(value >= found.min && value <= found.max))
        throw badInput(found.label, value, `Give ${found.min} to ${found.max} ${found.unit}.`);
      found.value = value;
    },
    setFault(terminal, fault) {
      faults[terminal] = fault;
      for (const g of groups) for (const s of g.signals) if (s.terminal === terminal) s.fault = fault;
    },
    close() {
      groups = [];
    },
  };
}

export const dockChassis: UnitDriver = {
  kind: 'dock chassis',
  open: ({ serial, name }, clock) =>
    openDockChassis(serial, name, clock(), { tidePhaseS: 5200, faults: { 'A2/2': 'open wire' } }),
};
