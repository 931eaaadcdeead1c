import { connect, type Socket } from 'node:net';
import { FarrierError } from '$core/errors';
import { voltsAt } from '$core/radio/levels';
import type { KnownUnit } from '$contract/engine';
import type { ReceiverState } from '$contract/radio';
import { openReceiver } from '../../radio/receiver';
import type { IqBlock, IqSource } from '../../radio/source';
import { Link } from '../link';
import type { UnitDriver } from '../driver';
import { FrameCutter, type IqFrame } from './framing';

/** Samples that wait to be asked for, s: what is older was not taken and is lost. */
const HELD_S = 1;
/** A receiver that has sent nothing for so long is silent. */
const SILENT_MS = 2000;

/** A receiver on the network: its frames as they come, its tuning by a line of text. */
export const networkReceiver: UnitDriver = {
  kind: 'network receiver',
  open(unit: KnownUnit, clock) {
    const { host, port } = unit.config.settings as { host: string; port: number };
    const where = `${host}:${port}`;
    let socket: Socket | null = null;
    let blocks: IqBlock[] = [];
    let newest: IqFrame | null = null;
    let next = 0;
    let heardMs = 0;
    const ms = () => Number(clock() / 1_000_000n);

    const take = (frame: IqFrame) => {
      // Another rate is another receiver: what came at the former one is done with.
      if (newest && newest.sampleRateHz !== frame.sampleRateHz) blocks = [];
      newest = frame;
      heardMs = ms();
      const scale = frame.volts > 0 ? frame.volts : voltsAt(0);
      const iq = frame.iq.map((v) => v * scale);
      next = frame.first + iq.length / 2;
      blocks.push({ first: frame.first, iq, overload: frame.overload, centreHz: frame.centreHz });
      let waiting = blocks.reduce((n, b) => n + b.iq.length / 2, 0);
      while (blocks.length > 1 && waiting > HELD_S * frame.sampleRateHz)
        waiting -= blocks.shift()!.iq.length / 2;
    };
    const link = new Link(where, () => {
      const cutter = new FrameCutter();
      const own = (socket = connect({ host, port }));
      own.on('connect', () => link.up());
      own.on('data', (data) => {
        try {
          for (const frame of cutter.push(data)) take(frame);
        } catch (error) {
          own.destroy(error as Error);
        }
      });
      own.on('error', (error) => link.down(error instanceof FarrierError ? error.message : error.message));
      own.on('close', () => {
        if (socket === own) socket = null;
        if (link.connected) link.down('The connection was closed.');
      });
    });
    const there = () => {
      link.check();
      if (newest && ms() - heardMs < SILENT_MS) return;
      throw new FarrierError('unavailable', {
        what: 'It sends no samples.',
        where,
        why: newest ? 'Nothing arrived for two seconds.' : 'It is connected, but no frame has arrived yet.',
        next: 'Look at the receiver: it has to be started.',
      });
    };
    const state = (): ReceiverState => ({
      centreHz: newest?.centreHz ?? 0,
      sampleRateHz: newest?.sampleRateHz ?? 1e6,
      gainDb: 0,
      tunes: { fromHz: 0, toHz: 1e11 },
      accuracy: null,
      noiseFigure: null,
      scaled: (newest?.volts ?? 1) > 0,
    });
    const source: IqSource = {
      state,
      get next() {
        return next;
      },
      read() {
        there();
        const out = blocks;
        blocks = [];
        return out;
      },
      tune: (hz) => void socket?.write(`tune ${Math.round(hz)}\n`),
      close() {
        link.close();
        socket?.destroy();
      },
    };
    const receiver = openReceiver(unit, source);
    return {
      ...receiver,
      start(requests, nowNs) {
        there();
        return receiver.start(requests, nowNs);
      },
      poll(nowNs) {
        there();
        return receiver.poll(nowNs);
      },
    };
  },
};
