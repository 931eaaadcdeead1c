import type { Frame } from '$core/field/frames';
import { KINDS, packed, unpacked } from '$core/field/messages';
import { rowsBytes, rowsThatFit } from '$core/field/station/state';
import { Answering } from '../answering';
import { Refused } from '../recorder';
import type { Station } from './instrument';

type Asked<K extends 'send' | 'startCompile' | 'rows' | 'set'> = Parameters<Station[K]>[0];

/** The line of a station. Without power nobody answers. */
export class StationDoor extends Answering {
  constructor(protected readonly station: Station) {
    super();
  }
  override answer(frame: Frame, whom: object): Uint8Array {
    return this.station.isWithoutPower && frame.kind !== KINDS.play
      ? new Uint8Array(0)
      : super.answer(frame, whom);
  }
  /** Its power fails: lines fall, too. */
  losePower(seconds: number): void {
    this.station.losePower(seconds);
    this.forget();
    this.cut();
  }

  protected done({ kind, carried }: Frame): Uint8Array {
    const own = this.station;
    switch (kind) {
      case KINDS.hello: {
        const { model, serial, firmware } = own.state();
        return packed({ model, serial, firmware });
      }
      case KINDS.state:
        return packed({ ...own.state(), worldMs: own.world });
      case KINDS.clock:
        own.setClock(unpacked<{ utcMs: number }>(carried).utcMs);
        return packed({});
      case KINDS.programme:
        return packed(own.runs());
      case KINDS.send:
        return packed(own.send(unpacked<Asked<'send'>>(carried)));
      case KINDS.compile:
        own.startCompile(unpacked<Asked<'startCompile'>>(carried));
        return packed({});
      case KINDS.rows: {
        const { most, ...asked } = unpacked<Asked<'rows'> & { most: number }>(carried);
        return rowsBytes(own.rows({ ...asked, count: Math.min(asked.count, rowsThatFit(most, own.width(asked.table))) })); // prettier-ignore
      }
      case KINDS.live:
        return packed(own.values());
      case KINDS.set:
        own.set(unpacked<Asked<'set'>>(carried));
        return packed({});
      default:
        throw new Refused({ why: 'unknown', says: `It does not know the message ${kind}.` });
    }
  }
}
