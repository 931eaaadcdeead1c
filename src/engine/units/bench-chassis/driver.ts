import { FarrierError, badInput, notFound } from '$core/errors';
import { encodeTeds } from '$core/teds/teds';
import { rateFromHz, samplesBefore, type Rate } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import type { Fault, Probe, StandInControl } from '$contract/unit';
import { channelKind } from '$contract/channel';
import {
  described,
  groupByRate,
  type AcquireRequest,
  type OpenUnit,
  type RawBlock,
  type UnitDriver,
} from '../driver';
import { Input, edgesPerSecond, type Bench, type Line } from './inputs';
import { CONTROLS, MODULES, moduleOf } from './wiring';
import { CHIPS } from './chips';

interface Group {
  rate: Rate;
  startNs: bigint;
  delivered: number;
  requests: AcquireRequest[];
  inputs: Input[];
  buffers: Float32Array[];
}

/** What an input is taken for while nothing says how it is read. */
const USUAL: Record<string, { kind: string; unit: string }> = {
  B1: { kind: 'strain bridge', unit: 'mV/V' },
  B2: { kind: 'thermocouple', unit: 'mV' },
  B3: { kind: 'vibration', unit: 'mV' },
  B4: { kind: 'voltage', unit: 'V' },
  B5: { kind: 'current loop', unit: 'mA' },
  B6: { kind: 'potentiometer', unit: 'V/V' },
  B7: { kind: 'pulses', unit: 'Hz' },
  B8: { kind: 'contact', unit: '1' },
  B9: { kind: 'driven', unit: 'V' },
  B10: { kind: 'driven', unit: '1' },
};
const PROBED = 50;
const MOST_PER_SECOND = 4e6;

/** A chassis with every kind of module; what its sensors feel is set by hand. */
export function openBenchChassis(unit: Pick<KnownUnit, 'serial' | 'kind' | 'name'>, seed = 9107): OpenUnit {
  const controls = new Map<string, StandInControl>(CONTROLS.map((c) => [c.id, { ...c }]));
  const faults: Record<string, Fault> = {};
  const lines = new Map<string, Line>();
  const outputs: Record<string, number> = {};
  const shunts = new Set<string>();
  let groups: Group[] = [];
  let started = 0;
  let countedNs: bigint | null = null;
  const bench: Bench = {
    hand: (terminal) => controls.get(terminal)?.value,
    fault: (terminal) => faults[terminal] ?? 'none',
    line(terminal) {
      let line = lines.get(terminal);
      if (!line)
        lines.set(terminal, (line = { direction: 'in', on: false, pulsesHz: 0, duty: 0.5, edges: 0 }));
      return line;
    },
    output: (terminal) => outputs[terminal] ?? 0,
    shunt: (terminal) => shunts.has(terminal),
    junction: 23.4,
  };

  function answering(): void {
    if (controls.get('plugged')!.value > 0.5) return;
    throw new FarrierError('unavailable', {
      what: 'The unit does not answer.',
      where: unit.name,
      why: 'Its plug is out.',
      next: 'Plug it in again: it is found by itself.',
    });
  }
  /** Counter inputs count all the time, whether a channel reads them or not. */
  function countEdges(nowNs: bigint): void {
    const seconds = countedNs === null ? 0 : Number(nowNs - countedNs) / 1e9;
    countedNs = nowNs;
    for (const { id } of moduleOf('B7/1')!.terminals)
      bench.line(id).edges += edgesPerSecond(id, bench.hand(id) ?? 0) * seconds;
  }
  const known = (terminal: string) => {
    const module = moduleOf(terminal);
    if (!module?.terminals.some((t) => t.id === terminal)) throw notFound('terminal', terminal);
    return module;
  };

  return {
    describe: () =>
      described(unit, {
        firmware: '2.1',
        calibratedUntil: '2027-05-30',
        temperature: 31.5,
        modules: MODULES,
        controls: [...controls.values()],
        faults,
        standIn: true,
        abilities: ['self-test', 'reset', 'chips'],
      }),
    start(requests, startNs) {
      answering();
      started++;
      countedNs ??= startNs;
      groups = [...groupByRate(requests, MODULES)].map(([rateHz, list]) => {
        if (list.length * rateHz > MOST_PER_SECOND)
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
          inputs: list.map((r) => new Input(r.terminal, rateHz, r.kind, r.settings, seed + started)),
          buffers: list.map(() => new Float32Array(1024)),
        };
      });
      return groups.map(({ rate, requests: list }) => ({ rate, startNs, requests: list }));
    },
    poll(nowNs) {
      answering();
      countEdges(nowNs);
      return groups.flatMap((g, group): RawBlock[] => {
        const count = samplesBefore(g.rate, nowNs - g.startNs) - g.delivered;
        if (count <= 0) return [];
        if (g.buffers[0].length < count) g.buffers = g.inputs.map(() => new Float32Array(count * 2));
        const trouble = g.inputs.map((input) => input.trouble(bench));
        const columns = g.inputs.map((input, c) => {
          const column = g.buffers[c].subarray(0, count);
          for (let i = 0; i < count; i++) column[i] = input.sample(bench);
          // The module knows an open or shorted input: what its converter reads there is no measurement.
          return trouble[c] === 'none' ? column : column.fill(NaN);
        });
        const firstIndex = g.delivered;
        g.delivered += count;
        return [{ group, firstIndex, count, columns, trouble }];
      });
    },
    setOutput(terminal, value) {
      answering();
      const { terminals } = known(terminal);
      const { kind } = terminals.find((t) => t.id === terminal)!;
      if (kind === 'relay') outputs[terminal] = value > 0.5 ? 1 : 0;
      else if (kind === 'line')
        Object.assign(bench.line(terminal), { direction: 'out', on: value > 0.5, pulsesHz: 0 });
      else if (kind !== 'output') throw badInput('output', terminal, 'Choose a terminal of B8, B9 or B10.');
      else if (!(Math.abs(value) <= 10))
        throw badInput('output value', `${value} V`, 'The output gives −10 to 10 V.');
      else outputs[terminal] = value;
    },
    probe(terminal, as): Probe {
      answering();
      const module = known(terminal);
      const usual = USUAL[module.id];
      const kind = terminal === 'B2/junction' ? 'cold junction' : (as?.kind ?? usual.kind);
      const input = new Input(
        terminal,
        1000,
        kind,
        as?.settings ?? {},
        seed + Math.floor(Math.random() * 1e6),
      );
      let sum = 0;
      let squares = 0;
      for (let i = 0; i < PROBED; i++) {
        const value = input.sample(bench);
        sum += value;
        squares += value * value;
      }
      const mean = sum / PROBED;
      const wired =
        bench.hand(terminal) !== undefined ||
        ['B8', 'B9', 'B10'].includes(module.id) ||
        terminal === 'B2/junction';
      const line = module.id === 'B8' || module.id === 'B7' ? { ...bench.line(terminal) } : null;
      if (line && line.direction === 'in') line.on = mean > 0.5;
      return {
        unit:
          as && as.kind !== 'driven'
            ? channelKind(as.kind).rawUnit
            : terminal === 'B2/junction'
              ? '°C'
              : usual.unit,
        mean,
        noise: Math.sqrt(Math.max(0, squares / PROBED - mean * mean)),
        samples: PROBED,
        trouble: input.trouble(bench),
        remark: wired
          ? null
          : 'Nothing is connected: the input floats and shows noise, these numbers mean nothing.',
        ...(line && {
          line: {
            direction: line.direction,
            on: line.on,
            edges: Math.floor(line.edges),
            pulsesHz: line.pulsesHz,
            duty: line.duty,
          },
        }),
        ...(module.id === 'B9' || module.id === 'B10' ? { output: bench.output(terminal) } : {}),
        ...(module.id === 'B1' && { shunt: shunts.has(terminal) }),
        ...(module.id === 'B3' && { biasV: input.bias(bench) }),
      };
    },
    tryOut(terminal, act) {
      answering();
      const module = known(terminal);
      const line = bench.line(terminal);
      const only = (...ids: string[]) => {
        if (!ids.includes(module.id))
          throw badInput('try-out', act.set, `Terminal ${terminal} has nothing of that kind.`);
      };
      switch (act.set) {
        case 'value':
          return this.setOutput(terminal, act.value);
        case 'direction':
          only('B8');
          return void Object.assign(line, { direction: act.direction, pulsesHz: 0, on: false });
        case 'level':
          only('B8');
          if (line.direction === 'in')
            throw badInput(
              'direction',
              'in',
              'Turn the line to an output first: another output on it would be shorted.',
            );
          return void Object.assign(line, { on: act.on, pulsesHz: 0 });
        case 'pulses':
          only('B8');
          if (line.direction === 'in') throw badInput('direction', 'in', 'Turn the line to an output first.');
          return void Object.assign(line, { pulsesHz: act.hz, duty: act.duty });
        case 'count from 0':
          only('B7', 'B8');
          for (const g of groups)
            g.inputs = g.inputs.map((input, k) =>
              input.terminal === terminal
                ? new Input(
                    terminal,
                    g.rate.num / g.rate.den,
                    g.requests[k].kind,
                    g.requests[k].settings,
                    seed,
                  )
                : input,
            );
          line.edges = 0;
          return;
        case 'shunt':
          only('B1');
          this.shunt!(terminal, act.on);
      }
    },
    shunt(terminal, on) {
      answering();
      if (known(terminal).id !== 'B1')
        throw new FarrierError('not_allowed', {
          what: 'There is no shunt at this terminal.',
          where: `${unit.name} ${terminal}`,
          next: 'Wire the bridge to module B1, which has one.',
        });
      if (on) shunts.add(terminal);
      else shunts.delete(terminal);
    },
    selfTest() {
      answering();
      const began = performance.now();
      const broken = Object.entries(faults).filter(([, f]) => f !== 'none');
      const checks = MODULES.map((m) => {
        const at = broken.filter(([t]) => t.startsWith(`${m.id}/`) && moduleOf(t) === m);
        return {
          what: `${m.id} ${m.title}`,
          ok: at.length === 0,
          says: at.length
            ? `${at.map(([t, f]) => `${t}: ${f}`).join(', ')}`
            : 'converter, reference and supply within limits',
        };
      });
      return { ok: checks.every((c) => c.ok), atMs: Date.now(), tookMs: performance.now() - began, checks };
    },
    reset() {
      answering();
      for (const key of Object.keys(outputs)) delete outputs[key];
      lines.clear();
      shunts.clear();
    },
    chips: () => {
      answering();
      return CHIPS.map(({ terminal, teds }) => ({ terminal, memory: encodeTeds(teds) }));
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

export const benchChassis: UnitDriver = {
  kind: 'bench chassis',
  open: (unit) => openBenchChassis(unit),
};
