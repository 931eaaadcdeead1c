import { FarrierError, asFarrierError, conflict, notFound } from '$core/errors';
import {
  BLOCK_MS,
  EngineCommand,
  type EngineMessage,
  type EngineSetup,
  type KnownUnit,
} from '$contract/engine';
import type { HeardBand, HeardFault } from '$contract/radio';
import type { CaughtTold } from '$contract/radio-catching';
import { Acquisition } from './acquisition';
import { AtWork } from './at-work';
import { steadyClock } from './clock';
import { newSlot, type UnitSlot } from './slots';
import { described, type ListenSink, type OpenUnit } from './units/driver';
import { serialPorts } from './units/line/driver';
import { UNIT_DRIVERS } from './units/registry';

/** Where this module lives: the file that the web server forks. Importing it does nothing else. */
export const entry = import.meta.url;

const STATUS_MS = 1000;
const NS_PER_MS = 1_000_000n;

/** Time that outputs have to come to rest before their connections are closed. */
const REST_MS = 2000;
/** A promise, but no longer than outputs may take. */
const settled = (work: Promise<unknown>) =>
  Promise.race([work.catch(() => undefined), new Promise((done) => setTimeout(done, REST_MS))]);

const same = (a: KnownUnit, b: KnownUnit | undefined) => JSON.stringify(a) === JSON.stringify(b);
const place = (known: KnownUnit[], slot: UnitSlot) => known.findIndex((u) => u.serial === slot.serial);

/** A unit that could not be opened: it says why, and is there to be mended. */
function broken(unit: KnownUnit, fault: FarrierError): OpenUnit {
  const refuse = () => {
    throw fault;
  };
  return {
    describe: () => described(unit, { modules: [] }),
    start: refuse,
    poll: refuse,
    setOutput: refuse,
    probe: refuse,
    close: () => undefined,
  };
}

/** The engine process: opens units, turns the pipeline at a fixed beat, answers commands. Ends when its parent does. */
function run(send: (message: EngineMessage) => void): void {
  const now = steadyClock();
  const slots: UnitSlot[] = [];
  let setup: EngineSetup = { units: [], channels: [], rules: [] };
  let statusDue = true;
  let anew: string[] = [];
  const opened = new Map<string, KnownUnit>();
  const seen = new Set<string>();
  const atWork = process.env.FARRIER_AT_WORK ? new AtWork(process.env.FARRIER_AT_WORK) : null;
  const acquisition = new Acquisition(slots, {
    frame: (frame) => send({ say: 'frame', frame }),
    waves: (waves) => send({ say: 'waves', waves }),
    note: (kind, says, takeId, atNs, by) =>
      send({ say: 'note', kind, says, takeId, atMs: Number(atNs / NS_PER_MS), by }),
    take: (head, hash) => send({ say: 'take', head, durationS: (head.lengthNs ?? 0) / 1e9, hash }),
    call: (address, body) => send({ say: 'call', address, body }),
    anew: (ids) => (anew = ids),
    changed: () => (statusDue = true),
  });

  const say = (kind: string, says: string) =>
    send({ say: 'note', kind, says, takeId: null, atMs: Date.now(), by: 'Farrier' });

  /** Opens units that are new on the list, opens anew those that are set up differently, lets go of those taken off it. */
  function follow(known: KnownUnit[]): void {
    for (const slot of [...slots]) {
      const wanted = known.find((u) => u.serial === slot.serial);
      if (wanted && same(wanted, opened.get(slot.serial))) continue;
      if (wanted && !wanted.leftOut && slot.unit.adjust?.(wanted)) {
        opened.set(slot.serial, wanted);
        continue;
      }
      slot.unit.close();
      slots.splice(slots.indexOf(slot), 1);
      opened.delete(slot.serial);
    }
    for (const unit of known) {
      if (slots.some((s) => s.serial === unit.serial)) continue;
      const driver = UNIT_DRIVERS.find((d) => d.kind === unit.kind);
      try {
        if (unit.leftOut)
          throw new FarrierError('unavailable', {
            what: 'It was left out.',
            where: unit.name,
            why: unit.leftOut,
            next: 'Change its settings or what it plays, or start Farrier anew: then it is tried again.',
          });
        if (!driver) throw notFound('kind of unit', unit.kind);
        const open = () => driver.open(unit, now);
        const opening = atWork ? atWork.watch(unit.serial, atWork.on(unit.serial, open)) : open();
        slots.push(newSlot(opening, unit.serial, unit.name));
        opened.set(unit.serial, unit);
        if (!seen.has(unit.serial) && slots[slots.length - 1].unit.describe().standIn)
          say('unit', `${unit.name} was found.`);
        seen.add(unit.serial);
      } catch (error) {
        slots.push(newSlot(broken(unit, asFarrierError(error, unit.name)), unit.serial, unit.name));
        opened.set(unit.serial, unit);
      }
    }
    // In the order of the list, so that the page does not jump.
    slots.sort((a, b) => place(known, a) - place(known, b));
  }

  async function configure(next: EngineSetup): Promise<void> {
    if (acquisition.status.state !== 'Watching') acquisition.configure(next, now()); // says why it cannot
    await settled(acquisition.letGo(next));
    setup = next;
    follow(next.units);
    anew = [];
    acquisition.configure(next, now());
    send({ say: 'setup', channelIds: acquisition.channelIds, anew });
  }
  /** Set-ups are taken over one after the other: an output that is on its way to rest must not be overtaken. */
  let turn: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = turn.then(work, work);
    turn = next.catch(() => undefined);
    return next;
  };

  const slotOf = (serial: string) => {
    const slot = slots.find((s) => s.serial === serial);
    if (!slot) throw notFound('unit', serial);
    return slot;
  };

  /** Trying a unit out never disturbs a recording. */
  function free(serial: string): void {
    const { state, take } = acquisition.status;
    if (state !== 'Watching')
      throw conflict(
        slotOf(serial).name,
        `${take?.name ?? 'A take'} is ${state === 'Armed' ? 'armed' : 'being recorded'}: trying out would disturb it.`,
        'Wait for its end, or end it first.',
      );
  }
  function able<
    K extends
      | 'tryOut'
      | 'shunt'
      | 'selfTest'
      | 'reset'
      | 'chips'
      | 'send'
      | 'recentLog'
      | 'tune'
      | 'listen'
      | 'gather',
  >(serial: string, what: K): NonNullable<OpenUnit[K]> {
    const { unit, name } = slotOf(serial);
    if (!unit[what])
      throw new FarrierError('not_allowed', { what: 'This unit cannot do that.', where: name });
    return unit[what].bind(unit) as NonNullable<OpenUnit[K]>;
  }

  /** Tells what a receiver hears. */
  const hears =
    (unit: string): ListenSink =>
    (heard) =>
      'gathering' in heard
        ? send({ say: 'gathering', unit, gathering: heard.gathering })
        : send({ say: 'heard', heard: { unit, ...heard } as HeardBand | CaughtTold | HeardFault });

  function obey(command: EngineCommand): unknown {
    switch (command.do) {
      case 'configure':
        return inTurn(() => configure(command.setup));
      case 'arm':
        return acquisition.arm(command);
      case 'start':
        return acquisition.start();
      case 'disarm':
        return acquisition.disarm();
      case 'end':
        return acquisition.end();
      case 'mark':
        return acquisition.note(command.kind, command.says, command.by);
      case 'output':
        return acquisition.setOutput(command.channelId, command.value);
      case 'rest':
        return acquisition.toRest();
      case 'waves':
        return acquisition.showWaves(command.channelIds);
      case 'stop':
        return stop();
      case 'probe':
        return slotOf(command.unit).unit.probe(
          command.terminal,
          setup.channels.find((c) => c.wire?.unit === command.unit && c.wire.terminal === command.terminal) ??
            null,
        );
      case 'try out':
        free(command.unit);
        return able(command.unit, 'tryOut')(command.terminal, command.act);
      case 'shunt': {
        for (const { unit } of command.terminals) free(unit);
        const switches = command.terminals.map(({ unit, terminal }) => {
          const shunt = able(unit, 'shunt');
          return () => shunt(terminal, command.on);
        });
        for (const act of switches) act();
        return Number(now() / NS_PER_MS);
      }
      case 'self-test':
        free(command.unit);
        return able(command.unit, 'selfTest')();
      case 'reset':
        free(command.unit);
        return able(command.unit, 'reset')();
      case 'heard':
        return slotOf(command.unit).unit.heard?.() ?? [];
      case 'log':
        return able(command.unit, 'recentLog')();
      case 'chips':
        return able(command.unit, 'chips')();
      case 'send':
        free(command.unit);
        return able(command.unit, 'send')(command.text);
      case 'listen':
        return able(command.unit, 'listen')(command.wish, hears(command.unit));
      case 'gather':
        if (command.wish) free(command.unit);
        return able(command.unit, 'gather')(command.wish, hears(command.unit));
      case 'tune':
        free(command.unit);
        able(command.unit, 'tune')(command.centreHz);
        statusDue = true;
        return;
      case 'ports':
        return serialPorts();
      case 'read':
        return acquisition.read(command.channelIds, command.samples, command.raw);
      case 'control':
      case 'fault': {
        const { unit } = slotOf(command.unit);
        if (!unit.setControl || !unit.setFault)
          throw new FarrierError('not_allowed', {
            what: 'This unit is real.',
            where: command.unit,
            next: 'Use your hands.',
          });
        if (command.do === 'control') unit.setControl(command.id, command.value);
        else unit.setFault(command.terminal, command.fault);
        statusDue = true;
      }
    }
  }

  process.on('message', (message: { id: number; command: unknown }) => {
    const fail = (error: unknown) => {
      const { code, text } = asFarrierError(error, 'engine');
      send({ say: 'answer', id: message.id, error: { code, text } });
    };
    try {
      const value = obey(EngineCommand.parse(message.command));
      if (statusDue) sendStatus();
      if (value instanceof Promise)
        value.then((v) => send({ say: 'answer', id: message.id, value: v }), fail);
      else send({ say: 'answer', id: message.id, value });
    } catch (error) {
      fail(error);
    }
  });

  let told = '';
  function sendStatus(): void {
    statusDue = false;
    statusMs = Date.now();
    const { status } = acquisition;
    // Told only when it differs: with many units it is long, and it goes to every page.
    const text = JSON.stringify(status);
    if (text === told) return;
    told = text;
    send({ say: 'status', status });
  }

  let statusMs = 0;
  const beat = setInterval(() => {
    // A parent that went while this was still loading is told by no event.
    if (!process.connected) return stop();
    // What units say of themselves (counts, temperature) is told once a second.
    if (Date.now() - statusMs > STATUS_MS) statusDue = true;
    acquisition.step(now());
    if (statusDue) sendStatus();
  }, BLOCK_MS);

  let stopping = false;
  const stop = () => {
    if (stopping) return;
    stopping = true;
    clearInterval(beat);
    // Outputs are written before their connections are closed. An ordinary exit can wait for ever on live frames that nobody reads any more.
    void settled(acquisition.shutDown()).finally(() => process.kill(process.pid, 'SIGKILL'));
  };
  process.on('SIGINT', () => undefined); // the parent decides
  process.on('SIGTERM', () => undefined);
  process.on('disconnect', stop);
  send({ say: 'ready' });
}

if (process.send && process.env.FARRIER_ENGINE) {
  run((message) => {
    // A parent that has just gone is told by “disconnect”; a failed send must not end the engine before that.
    if (process.connected) process.send!(message, undefined, undefined, () => undefined);
  });
}
