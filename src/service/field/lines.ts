import { connect } from 'node:net';
import { FarrierError } from '$core/errors';
import { SerialPort } from 'serialport';
import { FieldLink, type Line } from './link';

/** Opens a line over TCP. @throws `unavailable` */
export function openTcp(host: string, port: number, ms = 2000): Promise<Line> {
  return new Promise((done, fail) => {
    const socket = connect({ host, port, noDelay: true });
    const refused = (why: string) => fail(new FarrierError('unavailable', { what: `Nothing answers at ${host}:${port}.`, why, next: 'Look whether it is switched on.' })); // prettier-ignore
    const late = setTimeout(() => (socket.destroy(), refused('It took too long.')), ms);
    socket.once('error', (error) => (clearTimeout(late), refused(error.message)));
    socket.once('connect', () => {
      clearTimeout(late);
      socket.removeAllListeners('error');
      socket.on('error', () => socket.destroy());
      done({
        write: (bytes) => void (socket.writable && socket.write(bytes)),
        onBytes: (hear) => void socket.on('data', hear),
        onEnd: (hear) => void socket.on('close', hear),
        close: () => socket.destroy(),
      });
    });
  });
}

const BAUD = 115_200;
/** Opens a serial line with 8 bits, no parity, one stop bit. @throws `unavailable` */
function openSerial(path: string, baudRate: number): Promise<Line> {
  return new Promise((done, fail) => {
    const port = new SerialPort({ path, baudRate, autoOpen: false });
    port.open((error) => {
      if (error) return fail(new FarrierError('unavailable', { what: `The serial port ${path} cannot be opened.`, why: error.message, next: 'Look at its cable, and whether another program has it.' })); // prettier-ignore
      port.on('error', () => port.isOpen && port.close());
      done({
        write: (bytes) => void (port.isOpen && port.write(Buffer.from(bytes))),
        onBytes: (hear) => void port.on('data', hear),
        onEnd: (hear) => void port.on('close', hear),
        close: () => void (port.isOpen && port.close()),
      });
    });
  });
}

/** Opens the line to an instrument: by an address as host:port, or by a serial port as its path with @ and its rate where it has another than 115 200.
 *  @throws `unavailable` */
export async function openLink(address: string): Promise<FieldLink> {
  const serial = /^(\/dev\/.+?|COM\d+)(?:@(\d+))?$/.exec(address);
  if (!serial) {
    const [host, port] = address.split(':');
    return new FieldLink(await openTcp(host, Number(port)));
  }
  const baud = Number(serial[2] ?? BAUD);
  // As long as a frame of this size is on its way, and half a second more (10 bits a byte).
  const bulk = Math.min(4096, Math.max(512, Math.floor(baud / 20)));
  return new FieldLink(
    await openSerial(serial[1], baud),
    { ms: 500 + (bulk * 10_000) / baud, tries: 6 },
    bulk,
  );
}
