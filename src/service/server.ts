import { asFarrierError } from '$core/errors';
import { setTimeout as wait } from 'node:timers/promises';
import type { EngineMessage } from '$contract/engine';
import type { TakeHead } from '$contract/take';
import { listUnits } from '$store/entities';
import { listed } from './inspect/look-into';
import { Backups } from '$store/backup';
import { Access } from './access';
import { closeApp, jobOf, log, openApp, takePath, type App } from './app';
import { atEnd } from './at-end';
import { EngineLink } from './engine-link';
import { pushSetup, recordingPath } from './setup/change';
import { FieldDesk } from './field/desk';
import { RadioDesk } from './radio/desk';
import { StationDesk } from './field/stations/desk';
import { mayCall } from './hosts';
import { Inbox } from './inbox';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { recoverTake } from '$store/take/recover';

export interface Server {
  app: App;
  access: Access;
  stop: () => Promise<void>;
}

/** Opens the data, starts the engine and connects the two. */
export async function startServer(options: {
  folder: string;
  host: string;
  phrase?: string;
}): Promise<Server> {
  const access = new Access(options.host, options.phrase);
  const app = openApp(options.folder);
  const engine = new EngineLink(
    (message) => {
      // Whatever cannot be done with what the engine says must not end the server: it says more.
      try {
        hear(app, message);
      } catch (error) {
        console.error(error);
        app.live.note({
          kind: 'trouble',
          says: asFarrierError(error, 'what the engine said').message,
          atMs: Date.now(),
          by: 'Farrier',
        });
      }
    },
    (restarted) => {
      if (restarted) afterCrash(app);
      followWaves();
      app.radio?.again();
      void pushSetup(app).catch((error) => log(app, 'trouble', asFarrierError(error, 'engine').message));
    },
    join(app.folder, 'engine-at-work'),
    (serial) => failedOn(app, serial),
  );
  app.engine = engine;
  const followWaves = () =>
    void engine.command({ do: 'waves', channelIds: app.live.wanted }).catch(() => undefined);
  app.live.onWaves = followWaves;
  app.radio = new RadioDesk(app);
  await engine.start();
  const backups = new Backups(app.db, app.folder, (says) => log(app, 'trouble', says));
  backups.begin();
  const inbox = new Inbox(app);
  inbox.begin();
  const field = new FieldDesk(app);
  app.field = field;
  field.begin();
  const stations = new StationDesk(app);
  app.stations = stations;
  stations.begin();
  return {
    app,
    access,
    stop: async () => {
      app.live.closeAll();
      backups.end();
      inbox.end();
      field.end();
      stations.end();
      app.radio?.close();
      await Promise.race([
        Promise.all([engine.stop(), closeApp(app)]),
        wait(5000, undefined, { ref: false }),
      ]);
      app.db.$client.close();
    },
  };
}

/** The engine hung or died at work on a unit: once can be chance, twice is the unit. */
function failedOn(app: App, serial: string): void {
  const unit = listUnits(app.db).find((u) => u.serial === serial);
  if (!unit || !app.leftOut.failed({ ...unit, path: recordingPath(app, unit) })) return;
  log(
    app,
    'trouble',
    `${unit.name} is left out: the engine failed twice while it was at work on it. Change its settings or what it plays, or start Farrier anew, and it is tried again.`,
  );
}

/** What the engine says by itself. */
export function hear(app: App, message: EngineMessage): void {
  switch (message.say) {
    case 'frame':
      app.alarms.frame(message.frame);
      return app.live.push(message.frame);
    case 'status':
      return app.live.setStatus(message.status);
    case 'waves':
      return app.live.pushWaves(message.waves);
    case 'heard':
      return app.radio?.heard(message.heard);
    case 'gathering':
      return app.radio?.gatherings.told(message.unit, message.gathering);
    case 'setup':
      app.alarms.setup(message.channelIds);
      return app.live.setup(message.channelIds, message.anew);
    case 'note':
      // A rule's alarm has no state that could end: it stands until somebody acknowledges it.
      if (message.kind === 'alarm') app.alarms.comes(message.by, 'alarm', message.says, message.atMs, true);
      // Which rule it was stands in its words, noted as it fired.
      return log(app, message.kind, message.says, {
        ...message,
        by: message.kind === 'alarm' ? 'Farrier' : message.by,
      });
    case 'take':
      listed(app, message.head, message.durationS * 1000);
      if (message.hash) sealed(app, message.head, message.hash);
      return;
    case 'call':
      return void callAddress(app, message.address, message.body);
  }
}

/** A take was closed: its seal goes into the logbook, and what its plan wants done at its end is done. */
function sealed(app: App, head: TakeHead, hash: string): void {
  log(app, 'seal', `${head.name} sealed, SHA-256 ${hash}.`, { takeId: head.id });
  if (head.state === 'complete') void atEnd(app, head);
}

const CALL_MS = 5000;
/** A rule calls an address, if its host is on the list; whether it was heard stands in the logbook. */
async function callAddress(app: App, address: string, body: unknown): Promise<void> {
  try {
    if (!mayCall(app, address))
      throw new Error(
        'its host is not on the list of hosts that rules may call; whoever holds the controls can put it there, at the rule',
      );
    const response = await fetch(address, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...(body as object), job: jobOf(app).name }),
      signal: AbortSignal.timeout(CALL_MS),
      // Where it would be sent on to is not on the list.
      redirect: 'manual',
    });
    if (!response.ok) throw new Error(`it answered ${response.status}`);
    log(app, 'rule', `${address} was called.`);
  } catch (error) {
    log(
      app,
      'trouble',
      `${address} could not be called: ${(error as Error).message}. See whether it can be reached from here.`,
    );
  }
}

const LOST_ENGINE = 'the engine stopped; all but the last quarter of a second before this moment is kept';

/** The engine died and a fresh one took over: the take it was writing is closed with what it holds. */
function afterCrash(app: App): void {
  const { take } = app.live.status;
  log(app, 'trouble', 'The engine stopped and was started again; outputs went to rest.');
  if (!take || !existsSync(takePath(app, take.id))) return;
  const head = recoverTake(takePath(app, take.id), LOST_ENGINE);
  listed(app, head, (head.lengthNs ?? 0) / 1e6);
  log(app, 'ended', `${head.name} was interrupted: ${LOST_ENGINE}.`, {
    takeId: take.id,
  });
}
