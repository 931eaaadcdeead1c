import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { vi } from 'vitest';
import type { KnownUnit } from '$contract/engine';
import { Acquisition } from '$engine/acquisition';
import { newSlot } from '$engine/slots';
import type { OpenUnit } from '$engine/units/driver';
import { openApp, type App } from '$service/app';
import { hear } from '$service/server';
import { putUnit } from '$store/entities';
import { START_NS } from './rig';

const STEP_MS = 50;

/** An application with one stand-in measured by the real pipeline, on a clock that the test moves: services that wait for seconds take
 *  none. */
export class LiveApp {
  readonly folder = mkdtempSync(join(tmpdir(), 'farrier-live-'));
  readonly app: App = openApp(this.folder);
  private readonly acquisition: Acquisition;
  private readonly beat: ReturnType<typeof setInterval>;
  private nowNs = START_NS;
  private anew: string[] = [];

  constructor(
    readonly unit: OpenUnit,
    known: KnownUnit,
  ) {
    vi.useFakeTimers({ toFake: ['setTimeout', 'setInterval', 'clearTimeout', 'clearInterval'] });
    const { app } = this;
    putUnit(app.db, known);
    this.acquisition = new Acquisition([newSlot(unit, known.serial, known.name)], {
      frame: (frame) => hear(app, { say: 'frame', frame }),
      waves: (waves) => hear(app, { say: 'waves', waves }),
      note: (kind, says, takeId, atNs, by) =>
        hear(app, { say: 'note', kind, says, takeId, atMs: Number(atNs / 1_000_000n), by }),
      take: (head, hash) => hear(app, { say: 'take', head, durationS: (head.lengthNs ?? 0) / 1e9, hash }),
      call: (address, body) => hear(app, { say: 'call', address, body }),
      anew: (ids) => (this.anew = ids),
      changed: () => app.live.setStatus(this.acquisition.status),
    });
    app.engine = {
      command: (command) => {
        try {
          return Promise.resolve(this.obey(command));
        } catch (error) {
          return Promise.reject(error as Error);
        }
      },
    };
    this.acquisition.configure({ units: [], channels: [], rules: [] }, this.nowNs);
    this.beat = setInterval(() => {
      this.acquisition.step((this.nowNs += BigInt(STEP_MS) * 1_000_000n));
    }, STEP_MS);
  }

  private obey(command: Parameters<App['engine']['command']>[0]): unknown {
    const { acquisition, app } = this;
    switch (command.do) {
      case 'configure':
        acquisition.configure(command.setup, this.nowNs);
        hear(app, { say: 'setup', channelIds: acquisition.channelIds, anew: this.anew });
        this.anew = [];
        return;
      case 'shunt':
        for (const { terminal } of command.terminals) this.unit.shunt!(terminal, command.on);
        return Number(this.nowNs / 1_000_000n);
      case 'read':
        return acquisition.read(command.channelIds, command.samples, command.raw);
      case 'arm':
        return acquisition.arm(command);
      case 'start':
        return acquisition.start();
      case 'end':
        return acquisition.end();
      case 'mark':
        return acquisition.note(command.kind, command.says, command.by);
      case 'disarm':
        return acquisition.disarm();
      case 'rest':
        return acquisition.toRest();
      case 'waves':
        return acquisition.showWaves(command.channelIds);
      case 'output':
        return acquisition.setOutput(command.channelId, command.value);
    }
  }

  /** Lets seconds pass. */
  pass = (seconds: number) => vi.advanceTimersByTimeAsync(seconds * 1000);

  /** Waits for a service while the clock runs. */
  async during<T>(work: Promise<T>, seconds = 30): Promise<T> {
    let settled = false;
    const watched = work.finally(() => (settled = true));
    watched.catch(() => undefined); // told by the await below
    for (let t = 0; t < seconds && !settled; t += 0.25) await this.pass(0.25);
    return watched;
  }

  hand = (id: string, value: number) => this.unit.setControl!(id, value);

  close(): void {
    clearInterval(this.beat);
    vi.useRealTimers();
    this.app.db.$client.close();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
