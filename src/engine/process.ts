import { FarrierError, asFarrierError, notFound } from '$core/errors';
import {
  BLOCK_MS,
  EngineCommand,
  type EngineMessage,
  type EngineSetup,
  type KnownUnit,
} from '$contract/engine';
import { Acquisition, type UnitSlot } from './acquisition';
import type { OpenUnit } from './units/driver';
import { UNIT_DRIVERS } from './units/registry';

/** Where this module lives: the file that the web server forks. Importing it does nothing else. */
export const entry = import.meta.url;

const DISCOVERY_MS = 2000;
const NS_PER_MS = 1_000_000n;

/** UTC in ns from a clock that never jumps: the wall clock is read once, at the start. */
function steadyClock(): () => bigint {
  const offset = BigInt(Date.now()) * NS_PER_MS - process.hrtime.bigint();
  return () => process.hrtime.bigint() + offset;
}

/** The engine process: opens units, turns the pipeline at a fixed beat, answers commands. Ends when its parent does. */
function run(send: (message: EngineMessage) => void): void {
  const now = steadyClock();
  const slots: UnitSlot[] = [];
  let setup: EngineSetup = { units: [], channels: [], rules: [] };
  let statusDue = true;
  const acquisition = new Acquisition(slots, {
    frame: (frame) => send({ say: 'frame', frame }),
    note: (kind, says, takeId, atNs, by) =>
      send({ say: 'note', kind, says, takeId, atMs: Number(atNs / NS_PER_MS), by }),
    take: (head) => send({ say: 'take', head, durationS: (head.lengthNs ?? 0) / 1e9 }),
    changed: () => (statusDue = true),
  });

  /** Opens units that answer and are not open yet, lets go of stand-ins that were taken off the list. */
  function discover(known: KnownUnit[]): boolean {
    let changed = false;
    const found = UNIT_DRIVERS.flatMap((driver) => driver.discover(known).map((u) => ({ ...u, driver })));
    for (const { serial, name, driver } of found) {
      if (slots.some((s) => s.serial === serial)) continue;
      let unit: OpenUnit;
      try {
        unit = driver.open(serial, name, now());
      } catch (error) {
        send({
          say: 'note',
          kind: 'trouble',
          says: asFarrierError(error, name).message,
          takeId: null,
          atMs: Date.now(),
          by: 'Farrier',
        });
        continue;
      }
      slots.push({ unit, serial, name, answering: true, says: '', groups: [], columns: [] });
      send({
        say: 'note',
        kind: 'unit',
        says: `${name} was found.`,
        takeId: null,
        atMs: Date.now(),
        by: 'Farrier',
      });
      changed = true;
    }
    for (const slot of [...slots]) {
      if (found.some((f) => f.serial === slot.serial)) continue;
      slot.unit.close();
      slots.splice(slots.indexOf(slot), 1);
      changed = true;
    }
    return changed;
  }

  function configure(next: EngineSetup): void {
    if (acquisition.status.state !== 'Watching') acquisition.configure(next, now()); // says why it cannot
    setup = next;
    discover(next.units);
    acquisition.configure(next, now());
    send({ say: 'setup', channelIds: acquisition.channelIds });
  }

  const slotOf = (serial: string) => {
    const slot = slots.find((s) => s.serial === serial);
    if (!slot) throw notFound('unit', serial);
    return slot;
  };

  function obey(command: EngineCommand): unknown {
    switch (command.do) {
      case 'configure':
        return configure(command.setup);
      case 'arm':
        return acquisition.arm(command);
      case 'start':
        return acquisition.start();
      case 'disarm':
        return acquisition.disarm();
      case 'end':
        return acquisition.end();
      case 'mark':
        return acquisition.note('mark', command.says, command.by);
      case 'output':
        return acquisition.setOutput(command.channelId, command.value);
      case 'rest':
        return acquisition.toRest();
      case 'stop':
        return stop();
      case 'probe':
        return slotOf(command.unit).unit.probe(command.terminal);
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
    try {
      const value = obey(EngineCommand.parse(message.command));
      if (statusDue) sendStatus();
      send({ say: 'answer', id: message.id, value });
    } catch (error) {
      const { code, text } = asFarrierError(error, 'engine');
      send({ say: 'answer', id: message.id, error: { code, text } });
    }
  });

  function sendStatus(): void {
    statusDue = false;
    send({ say: 'status', status: acquisition.status });
  }

  let discoveredMs = 0;
  const beat = setInterval(() => {
    if (Date.now() - discoveredMs > DISCOVERY_MS) {
      discoveredMs = Date.now();
      if (acquisition.status.state === 'Watching' && discover(setup.units)) configure(setup);
    }
    acquisition.step(now());
    if (statusDue) sendStatus();
  }, BLOCK_MS);

  const stop = () => {
    clearInterval(beat);
    acquisition.shutDown();
    // Everything is closed. An ordinary exit can wait for ever on live frames that nobody reads any more.
    process.kill(process.pid, 'SIGKILL');
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
