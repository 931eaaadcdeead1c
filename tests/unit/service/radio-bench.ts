import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_STATUS } from '$contract/engine-status';
import type { EngineCommand } from '$contract/engine';
import { openApp, type App } from '$service/app';
import { RadioDesk } from '$service/radio/desk';
import { openStandIn } from '$engine/units/receiver/driver';
import type { OpenUnit } from '$engine/units/driver';
import { START_NS } from '../rig';

export const RX = 'RX-1';
/** Channel that switches the supply of the noise source. */
export const SWITCH = 'supply of the source';

/** An application with the stand-in’s receiver, heard as fast as the machine can. */
export class RadioBench {
  private readonly folder = mkdtempSync(join(tmpdir(), 'farrier-radio-'));
  readonly app: App = openApp(this.folder);
  readonly unit: OpenUnit;
  readonly desk: RadioDesk;
  readonly commands: EngineCommand[] = [];
  /** Whether the receiver delivers anything. */
  delivers = true;
  private now = START_NS;
  private readonly beat: ReturnType<typeof setInterval>;

  constructor(rate: number, stepMs = 50) {
    const config = { settings: { centre: 868, rate, gain: 30 }, sources: [], database: null };
    this.unit = openStandIn({ serial: RX, kind: 'receiver', name: 'Quay receiver', config }, START_NS);
    const { app, unit } = this;
    app.live.setStatus({
      ...EMPTY_STATUS,
      units: [{ description: unit.describe(), answering: true, says: '' }],
    });
    app.engine = {
      command: (command) => {
        this.commands.push(command);
        try {
          if (command.do === 'gather')
            unit.gather!(command.wish, (heard) => {
              if ('gathering' in heard) this.desk.gatherings.told(RX, heard.gathering);
            });
          if (command.do === 'output' && command.channelId === SWITCH)
            void unit.setOutput('S/28 V', command.value);
          return Promise.resolve();
        } catch (error) {
          return Promise.reject(error as Error);
        }
      },
    };
    app.radio = this.desk = new RadioDesk(app);
    this.beat = setInterval(() => {
      if (this.delivers) unit.poll((this.now += BigInt(stepMs) * 1_000_000n));
    }, 1);
  }

  /** Samples that came while nobody listened are gone. */
  lose(seconds: number): void {
    this.now += BigInt(Math.round(seconds * 1e9));
  }
  hand = (id: string, value: number): void => this.unit.setControl!(id, value);

  close(): void {
    clearInterval(this.beat);
    this.unit.close();
    this.desk.close();
    this.app.live.closeAll();
    this.app.db.$client.close();
    rmSync(this.folder, { recursive: true });
  }
}
export const soon = (ms = 3): Promise<void> => new Promise((r) => setTimeout(r, ms));
