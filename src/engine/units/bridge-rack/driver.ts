import { FarrierError, badInput, notFound } from '$core/errors';
import { Random } from '$core/random';
import { bridgeOutput, type BridgeArrangement } from '$core/sensors/bridge';
import { shuntChange } from '$core/sensors/shunt';
import { rateFromHz, samplesBefore, type Rate } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import type { Fault, Probe, StandInControl, Trouble, UnitModule } from '$contract/unit';
import { Feel } from '../feel';
import { described, groupByRate, type AcquireRequest, type OpenUnit, type UnitDriver } from '../driver';

const MODULES_IN_RACK = 16;
const BRIDGES_PER_MODULE = 4;
const SHUNT_OHM = 100_000;
const FULL_SCALE = 25;
const GAUGE = { resistance: 350, factor: 2.08, poisson: 0.3 };
const CONTACTS = ['EX+', 'S+', 'S−', 'EX−'];

/** Sixteen bridge modules. */
const RACK_MODULES: UnitModule[] = Array.from({ length: MODULES_IN_RACK }, (_, m) => ({
  id: `C${m + 1}`,
  title: 'bridge',
  terminals: Array.from({ length: BRIDGES_PER_MODULE }, (_, t) => ({
    id: `C${m + 1}/${t + 1}`,
    kind: 'bridge' as const,
    contacts: CONTACTS,
    shunt: { ohm: SHUNT_OHM, arm: 1 as const },
  })),
  ratesHz: [100, 500, 1000, 2000, 5000],
  bandwidthShare: 0.4,
}));

/** What is glued to each terminal: the fourth bridge of a module is a full one, the others quarter bridges. */
const arrangementAt = (terminal: string): BridgeArrangement =>
  terminal.endsWith('/4') ? 'full, bending' : 'quarter';

/** A dead bridge: its gauge is bridged by moisture or solder, so that neither load nor shunt moves it. */
const DEAD: Fault = 'short';
/** Faults that the rack comes with, to be found. */
const FAULTS: Record<string, Fault> = { 'C2/3': DEAD, 'C3/2': 'broken gauge' };

class Bridge {
  private readonly random: Random;
  private readonly zero: number;
  private readonly feel = new Feel(0.25, 3);
  private sway = 0;
  private step = 0;

  constructor(
    readonly terminal: string,
    private readonly rateHz: number,
    seed: number,
  ) {
    const number = [...terminal].reduce((hash, sign) => (hash * 31 + sign.charCodeAt(0)) | 0, 7);
    // The gauge's own zero belongs to the gauge, the noise to this run.
    this.zero = 0.2 * new Random(number).gauss();
    this.random = new Random(seed ^ number);
  }

  sample(strain: number, touched: boolean, shunted: boolean, fault: Fault): number {
    const seconds = 1 / this.rateHz;
    const felt = this.feel.step(strain, seconds);
    this.sway += (-this.sway / 0.4) * seconds + Math.sqrt((2 * seconds) / 0.4) * this.random.gauss();
    const noise = 2e-4 * this.random.gauss();
    if (fault === 'broken gauge' || fault === 'open wire')
      return FULL_SCALE * 1.04 + 0.002 * this.random.gauss();
    if (fault === DEAD) return 0.003 + noise;
    // The switch and the module's filter settle within some 20 ms.
    const target = shunted ? shuntChange({ gaugeOhm: GAUGE.resistance, shuntOhm: SHUNT_OHM }) : 0;
    this.step += (target - this.step) * (1 - Math.exp(-seconds / 0.02));
    const gauge = felt + (touched ? 30 * this.sway : 0);
    const out = bridgeOutput(arrangementAt(this.terminal), GAUGE.factor, GAUGE.poisson, gauge * 1e-6);
    const value = this.zero + out + this.step + noise;
    return Math.max(-FULL_SCALE, Math.min(FULL_SCALE, fault === 'reversed polarity' ? -value : value));
  }
}

interface Group {
  rate: Rate;
  startNs: bigint;
  delivered: number;
  bridges: Bridge[];
  buffers: Float32Array[];
}

/** A rack of 64 bridges with shunts, all under one hand's load; a few of them are damaged. */
export function openBridgeRack(unit: Pick<KnownUnit, 'serial' | 'kind' | 'name'>, seed = 6404): OpenUnit {
  const hands: StandInControl[] = [
    { id: 'plugged', label: 'Plugged in', unit: 'yes/no', min: 0, max: 1, value: 1 },
    {
      id: 'strain',
      label: 'Bending of the blade',
      unit: 'µε',
      min: 0,
      max: 1500,
      value: 0,
      moves: ['bridge'],
    },
    {
      id: 'touched',
      label: 'Somebody leans on the blade',
      unit: 'yes/no',
      min: 0,
      max: 1,
      value: 0,
      moves: ['bridge'],
    },
  ];
  const controls = new Map(hands.map((c) => [c.id, c]));
  const faults: Record<string, Fault> = { ...FAULTS };
  const shunts = new Set<string>();
  let groups: Group[] = [];
  let started = 0;
  const hand = (id: string) => controls.get(id)!.value;
  const faultAt = (terminal: string): Fault => faults[terminal] ?? 'none';
  const troubleAt = (terminal: string): Trouble =>
    faultAt(terminal) === 'broken gauge' || faultAt(terminal) === 'open wire' ? 'open' : 'none';
  const sampleOf = (bridge: Bridge) =>
    bridge.sample(
      hand('strain'),
      hand('touched') > 0.5,
      shunts.has(bridge.terminal),
      faultAt(bridge.terminal),
    );

  function answering(): void {
    if (hand('plugged') > 0.5) return;
    throw new FarrierError('unavailable', {
      what: 'The unit does not answer.',
      where: unit.name,
      why: 'Its plug is out.',
      next: 'Plug it in again: it is found by itself.',
    });
  }
  function known(terminal: string): void {
    if (!RACK_MODULES.some((m) => m.terminals.some((t) => t.id === terminal)))
      throw notFound('terminal', terminal);
  }

  return {
    describe: () =>
      described(unit, {
        firmware: '1.1',
        calibratedUntil: '2027-08-01',
        temperature: 29,
        modules: RACK_MODULES,
        controls: [...controls.values()],
        faults,
        standIn: true,
        abilities: ['reset'],
      }),
    start(requests: AcquireRequest[], startNs) {
      answering();
      started++;
      const byRate = [...groupByRate(requests, RACK_MODULES)];
      groups = byRate.map(([rateHz, list]) => ({
        rate: rateFromHz(rateHz),
        startNs,
        delivered: 0,
        bridges: list.map((r) => new Bridge(r.terminal, rateHz, seed + started)),
        buffers: list.map(() => new Float32Array(1024)),
      }));
      return groups.map(({ rate }, k) => ({ rate, startNs, requests: byRate[k][1] }));
    },
    poll(nowNs) {
      answering();
      return groups.flatMap((g, group) => {
        const count = samplesBefore(g.rate, nowNs - g.startNs) - g.delivered;
        if (count <= 0) return [];
        if (g.buffers[0].length < count) g.buffers = g.bridges.map(() => new Float32Array(count * 2));
        const columns = g.bridges.map((bridge, c) => {
          const column = g.buffers[c].subarray(0, count);
          for (let i = 0; i < count; i++) column[i] = sampleOf(bridge);
          return column;
        });
        const firstIndex = g.delivered;
        g.delivered += count;
        return [{ group, firstIndex, count, columns, trouble: g.bridges.map((b) => troubleAt(b.terminal)) }];
      });
    },
    setOutput(terminal) {
      throw badInput('output', terminal, 'The rack has inputs only.');
    },
    probe(terminal): Probe {
      answering();
      known(terminal);
      const bridge = new Bridge(terminal, 1000, seed + Math.floor(Math.random() * 1e6));
      const values = Array.from({ length: 50 }, () => sampleOf(bridge));
      // The first samples still show the shunt's switch.
      const settled = shunts.has(terminal) ? Array.from({ length: 50 }, () => sampleOf(bridge)) : values;
      const mean = settled.reduce((a, b) => a + b) / settled.length;
      return {
        unit: 'mV/V',
        mean,
        noise: Math.sqrt(settled.reduce((sum, v) => sum + (v - mean) ** 2, 0) / settled.length),
        samples: settled.length,
        trouble: troubleAt(terminal),
        remark: null,
        shunt: shunts.has(terminal),
      };
    },
    shunt(terminal, on) {
      answering();
      known(terminal);
      if (on) shunts.add(terminal);
      else shunts.delete(terminal);
    },
    tryOut(terminal, act) {
      if (act.set !== 'shunt')
        throw badInput('try-out', act.set, `Terminal ${terminal} has nothing of that kind.`);
      this.shunt!(terminal, act.on);
    },
    reset() {
      answering();
      shunts.clear();
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
    },
    close() {
      groups = [];
    },
  };
}

export const bridgeRack: UnitDriver = { kind: 'bridge rack', open: (unit) => openBridgeRack(unit) };
