import { readFileSync } from 'node:fs';
import { FarrierError, badInput } from '$core/errors';
import { candumpLine, readCandump, readCandumpLine, type BusFrame } from '$core/can/candump';
import { readDbc } from '$core/can/dbc';
import { decodeFrame, writeSignal, type BusMessage, type BusSignal } from '$core/can/signal';
import { readLdf } from '$core/lin/ldf';
import type { KnownUnit } from '$contract/engine';
import type { StandInControl, TerminalKind } from '$contract/unit';
import { described, type OpenUnit, type UnitDriver } from '../driver';
import { HELD_RATES, Hearing, MessageValues } from '../message-values';
import { PITCH_DATABASE, SEAL_DESCRIPTION } from '$contract/units/stand-in-databases';
import { PITCH_DRIVE_PERIODS, PitchDrive } from './pitch-drive';

const STEP_NS = BigInt(Math.round(PitchDrive.STEP_S * 1e9));
const LOG_FRAMES = 20_000;
/** Names that databases use for the tool on the bench: its messages are ours to send. */
const OURS = new Set(['Bench', 'Vector__XXX']);

/** Where the frames of a bus come from. */
interface Traffic {
  /** Frames up to a time, in order. */
  until(nowNs: bigint): BusFrame[];
  send?(frame: BusFrame): void;
}

const initialOf = (signal: BusSignal): number | null =>
  signal.initial === null ? null : signal.initial * signal.factor + signal.offset;

/** The nodes of the stand-in bus, which send what their database says at their own pace. */
function nodes(own: BusMessage[], bus: string, originNs: bigint): Traffic {
  const drive = new PitchDrive();
  let atNs = originNs;
  let steps = 0;
  const sent = own.filter((m) => !OURS.has(m.sender));
  return {
    until(nowNs) {
      const frames: BusFrame[] = [];
      for (; atNs + STEP_NS <= nowNs; atNs += STEP_NS) {
        drive.step();
        steps++;
        for (const message of sent) {
          if (steps % (PITCH_DRIVE_PERIODS[message.name] ?? 20) !== 0) continue;
          const data = new Uint8Array(message.length);
          const page = message.signals.find((s) => s.multiplexor);
          const chosen = page ? drive.value(message.name, page.name) : null;
          for (const signal of message.signals)
            if (signal.multiplexed === null || signal.multiplexed === chosen)
              writeSignal(signal, data, drive.value(message.name, signal.name));
          frames.push({ timeNs: atNs + STEP_NS, bus, id: message.id, extended: message.extended, data });
        }
      }
      return frames;
    },
    send(frame) {
      const message = own.find((m) => m.id === frame.id && m.extended === frame.extended);
      if (message?.name !== 'PitchCommand') return;
      for (const { signal, raw } of decodeFrame(message, frame.data)) {
        if (signal.name === 'Target') drive.target = raw * signal.factor + signal.offset;
        if (signal.name === 'Enable') drive.enabled = raw > 0.5;
      }
    },
  };
}

/** Frames a second that no bus can carry: a log that has more at one time is played more slowly. */
const MOST_FRAMES_S = 20_000n;
/** Frames handed on at once; what is due besides waits for the next time. */
const MOST_AT_ONCE = 10_000;

/** A recorded log, played at its own speed and from its start again. Frames that were written out of order are put in order. */
function log(text: string, originNs: bigint): Traffic {
  const frames = readCandump(text).sort((a, b) => (a.timeNs < b.timeNs ? -1 : a.timeNs > b.timeNs ? 1 : 0));
  if (frames.length === 0) throw badInput('log', 'no frame', 'Choose a log with at least one frame.');
  const first = frames[0].timeNs;
  const least = (BigInt(frames.length) * 1_000_000_000n) / MOST_FRAMES_S;
  const spoken = frames[frames.length - 1].timeNs - first + 10_000_000n;
  const length = spoken > least ? spoken : least;
  let next = 0;
  let turn = 0n;
  return {
    until(nowNs) {
      const due: BusFrame[] = [];
      while (due.length < MOST_AT_ONCE) {
        const timeNs = originNs + turn * length + (frames[next].timeNs - first);
        if (timeNs > nowNs) return due;
        due.push({ ...frames[next], timeNs });
        if (++next === frames.length) {
          next = 0;
          turn++;
        }
      }
      return due;
    },
  };
}

/** A bus whose messages a description explains: every signal is a terminal. */
export function openBus(
  unit: KnownUnit,
  nowNs: bigint,
  read: (text: string, file: string) => BusMessage[],
  ownText: string,
  bus: string,
): OpenUnit {
  const { database, settings } = unit.config;
  const messages = database ? read(database.text, database.name) : [];
  const traffic = unit.path
    ? log(readFileSync(unit.path, 'utf8'), nowNs)
    : nodes(read(ownText, 'own'), bus, nowNs);
  const values = new MessageValues();
  const hearing = new Hearing();
  const recent: BusFrame[] = [];
  const commanded = new Map<string, number>();
  const byId = new Map(messages.map((m) => [`${m.extended}${m.id}`, m]));
  let movedNs = nowNs;
  const maySend = settings.listenOnly === 'listen and send';
  const plugged: StandInControl = {
    id: 'plugged',
    label: 'Plugged in',
    unit: 'yes/no',
    min: 0,
    max: 1,
    value: 1,
  };

  const answering = () => {
    if (plugged.value > 0.5) return;
    throw new FarrierError('unavailable', {
      what: 'The bus is silent.',
      where: unit.name,
      why: 'Its plug is out.',
      next: 'Plug it in again: it is found by itself.',
    });
  };
  const kindOf = (m: BusMessage): TerminalKind => (maySend && OURS.has(m.sender) ? 'setting' : 'value');

  function hear(frame: BusFrame): void {
    recent.push(frame);
    if (recent.length > LOG_FRAMES * 1.2) recent.splice(0, recent.length - LOG_FRAMES);
    const message = byId.get(`${frame.extended}${frame.id}`);
    const parts = message ? decodeFrame(message, frame.data) : [];
    const setting = message && kindOf(message) === 'setting';
    for (const { signal, raw } of parts)
      values.arrive(
        `${message!.name}/${signal.name}`,
        setting ? raw * signal.factor + signal.offset : raw,
        frame.timeNs,
      );
    hearing.add({
      timeMs: Number(frame.timeNs / 1_000_000n),
      text: candumpLine(frame).replace(/^\S+ /, ''),
      says: message
        ? `${message.name}: ${parts.map(({ signal, raw }) => `${signal.name} ${Number((raw * signal.factor + signal.offset).toPrecision(6))}${signal.unit && ` ${signal.unit}`}`).join(', ')}`
        : messages.length
          ? 'not in the database'
          : '',
      ok: message !== undefined || messages.length === 0,
    });
  }
  function moveTo(toNs: bigint): void {
    if (toNs <= movedNs) return;
    movedNs = toNs;
    traffic.until(toNs).forEach(hear);
  }
  function transmit(frame: BusFrame): void {
    if (!maySend)
      throw new FarrierError('not_allowed', {
        what: 'This bus is only listened to.',
        where: unit.name,
        next: 'Choose “listen and send” on its page first.',
      });
    traffic.send?.(frame);
    hear(frame);
  }

  return {
    describe: () =>
      described(unit, {
        firmware: '3.0',
        standIn: true,
        modules: messages.map((m) => ({
          id: m.name,
          title: `0x${m.id.toString(16).toUpperCase()}${m.sender && !OURS.has(m.sender) ? `, from ${m.sender}` : ''}`,
          terminals: m.signals.map((s) => ({
            id: `${m.name}/${s.name}`,
            kind: kindOf(m),
            label: s.name,
            sheet: {
              ...(kindOf(m) === 'value' && { slope: s.factor, offset: s.offset }),
              ...(s.unit && { unit: s.unit }),
              ...(s.min < s.max && { min: s.min, max: s.max }),
            },
          })),
          ratesHz: HELD_RATES,
          bandwidthShare: 0,
        })),
        controls: [{ ...plugged }],
        abilities: ['monitor', ...(maySend ? (['send'] as const) : []), 'log'],
        counts: [
          { what: 'frames', count: hearing.good + hearing.bad },
          { what: 'frames not in the database', count: hearing.bad },
        ],
      }),
    start(requests, startNs) {
      answering();
      return values.start(requests, startNs);
    },
    poll(toNs) {
      answering();
      moveTo(toNs);
      return values.poll(toNs);
    },
    setOutput(terminal, value) {
      answering();
      const [name] = terminal.split('/');
      const message = messages.find((m) => m.name === name);
      if (
        !message ||
        kindOf(message) !== 'setting' ||
        !message.signals.some((s) => `${name}/${s.name}` === terminal)
      )
        throw badInput('signal', terminal, 'Choose a signal of a message that the bench sends.');
      const data = new Uint8Array(message.length);
      // A message goes as a whole: the others keep what was commanded or last on the bus, or what the description says they begin with.
      for (const signal of message.signals) {
        const place = `${name}/${signal.name}`;
        const own =
          place === terminal
            ? value
            : (commanded.get(place) ?? values.last(place)?.value ?? initialOf(signal));
        if (own === null)
          throw new FarrierError('conflict', {
            what: `${name} is sent as a whole, and nobody has said what ${signal.name} is.`,
            where: `${unit.name} ${terminal}`,
            why: 'It was neither set nor seen on the bus, and the description gives no start value.',
            next: `Set ${signal.name} first.`,
          });
        writeSignal(signal, data, own);
      }
      commanded.set(terminal, value);
      transmit({ timeNs: movedNs, bus, id: message.id, extended: message.extended, data });
    },
    probe(terminal) {
      answering();
      const last = values.last(terminal);
      const message = messages.find((m) => terminal.startsWith(`${m.name}/`));
      const signal = message?.signals.find((s) => `${message.name}/${s.name}` === terminal);
      const setting = message !== undefined && kindOf(message) === 'setting';
      return {
        unit: signal?.unit || '1',
        mean: last ? (setting || !signal ? last.value : last.value * signal.factor + signal.offset) : NaN,
        noise: 0,
        samples: last ? 1 : 0,
        trouble: last ? 'none' : 'silent',
        remark: last || setting ? null : 'No frame with this signal has come yet.',
        ...(setting && { output: commanded.get(terminal) ?? last?.value ?? 0 }),
      };
    },
    tryOut(terminal, act) {
      if (act.set !== 'value') throw badInput('try-out', act.set, 'A signal takes a value.');
      this.setOutput(terminal, act.value);
    },
    heard: () => hearing.last,
    send(text) {
      answering();
      const frame = readCandumpLine(/^\(/.test(text.trim()) ? text : `(0.000000) ${bus} ${text.trim()}`);
      if (!frame) throw badInput('frame', text, 'Write it like 2A0#E8030100.');
      transmit({ ...frame, timeNs: movedNs, bus });
    },
    setControl(id, value) {
      if (id !== 'plugged') throw badInput('control', id, 'There is only the plug.');
      plugged.value = value > 0.5 ? 1 : 0;
    },
    setFault: () => undefined,
    recentLog: () => recent.slice(-LOG_FRAMES).map(candumpLine).join('\n') + '\n',
    close: () => undefined,
  };
}

export const canBus: UnitDriver = {
  kind: 'CAN bus',
  open: (unit, clock) => openBus(unit, clock(), readDbc, PITCH_DATABASE, 'can0'),
};
export const linBus: UnitDriver = {
  kind: 'LIN bus',
  open: (unit, clock) => openBus(unit, clock(), readLdf, SEAL_DESCRIPTION, 'lin0'),
};
