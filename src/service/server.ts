import { asFarrierError } from '$core/errors';
import { setTimeout as wait } from 'node:timers/promises';
import type { EngineMessage } from '$contract/engine';
import { putTake } from '$store/entities';
import { Access } from './access';
import { log, openApp, takePath, type App } from './app';
import { EngineLink } from './engine-link';
import { pushSetup } from './setup/change';
import { closeStudies } from './studies';
import { existsSync } from 'node:fs';
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
    (message) => hear(app, message),
    (restarted) => {
      if (restarted) afterCrash(app);
      void pushSetup(app).catch((error) => log(app, 'trouble', asFarrierError(error, 'engine').message));
    },
  );
  app.engine = engine;
  await engine.start();
  return {
    app,
    access,
    stop: async () => {
      app.live.closeAll();
      await Promise.race([
        Promise.all([engine.stop(), closeStudies()]),
        wait(5000, undefined, { ref: false }),
      ]);
      app.db.$client.close();
    },
  };
}

function hear(app: App, message: EngineMessage): void {
  switch (message.say) {
    case 'frame':
      return app.live.push(message.frame);
    case 'status':
      return app.live.setStatus(message.status);
    case 'setup':
      return app.live.setup(message.channelIds);
    case 'note':
      return log(app, message.kind, message.says, message);
    case 'take':
      return putTake(app.db, message.head, message.durationS * 1000);
  }
}

/** The engine died and a fresh one took over: the take it was writing is closed with what it holds. */
function afterCrash(app: App): void {
  const { take } = app.live.status;
  log(app, 'trouble', 'The engine stopped and was started again; outputs went to rest.');
  if (!take || !existsSync(takePath(app, take.id))) return;
  const head = recoverTake(takePath(app, take.id));
  putTake(app.db, head, (head.lengthNs ?? 0) / 1e6);
  log(app, 'ended', `${head.name} was interrupted; all up to the last quarter of a second is kept.`, {
    takeId: take.id,
  });
}
