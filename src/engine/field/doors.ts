import type { Server } from 'node:net';
import { SerialPort } from 'serialport';
import type { Answering } from './answering';

const BAUD = 115_200;

/** Lets an instrument answer on a serial port, 8 bits, no parity, one stop bit. @returns what closes it @throws Error where the port cannot be opened */
export function listenSerial(instrument: Answering, path: string, baudRate = BAUD): Promise<() => void> {
  return new Promise((done, fail) => {
    const port = new SerialPort({ path, baudRate, autoOpen: false });
    port.open((error) => {
      if (error) return fail(error);
      instrument.hear(port);
      done(() => port.isOpen && port.close());
    });
  });
}

/** Lets a stand-in answer, at a TCP port of this machine or, where a path is given (with @ and its rate), on a serial port; it says where. @returns what closes it */
export async function openDoor(instrument: Answering, who: string, where: string): Promise<() => void> {
  if (where.includes('/')) {
    const [path, baud] = where.split('@');
    const close = await listenSerial(instrument, path, baud ? Number(baud) : BAUD);
    console.log(`${who} listens on ${path}.`);
    return close;
  }
  const { server, port }: { server: Server; port: number } = await instrument.listen(Number(where));
  console.log(`${who} listens on 127.0.0.1:${port}.`);
  return () => void server.close();
}
