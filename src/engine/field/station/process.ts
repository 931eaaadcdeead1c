import { openDoor } from '../doors';
import { World } from '../play';
import { PIER_PROGRAMME, PlayedStation } from './pier';

// A stand-in for a station, as a process of its own (docs/field-protocol.md).
// Arguments: the port, or the path of a serial one, how much faster than ours its time runs, its model, for how many days it has run already (-1: it has no programme),
// its serial, where it calls in as host:port, every so many seconds, and when its time begins if that is not now.
const [port = '4720', speed = '1', model = 'ST-9', days = '40', serial = 'ST9-0021', calls = '', everyS = '600', begins = ''] = process.argv.slice(2); // prettier-ignore
const world = new World(Number(speed) || 1, begins ? Date.parse(begins) : Date.now());
const station = new PlayedStation(serial, model, world, { driftPpm: 14 });
if (Number(days) >= 0) station.runSince(PIER_PROGRAMME, Number(days));
const close = await openDoor(station, 'The station', port);
if (calls) {
  const [host, to] = calls.split(':');
  setInterval(() => station.callIn(host, Number(to)), (Number(everyS) * 1000) / world.speed);
}
const end = () => {
  close();
  process.exit(0);
};
process.on('SIGTERM', end);
process.on('SIGINT', end);
