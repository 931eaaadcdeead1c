import { openDoor } from './doors';
import { PlayedCradle, World, quayRecorders } from './play';

// A stand-in for a cradle with its recorders, as a process of its own (docs/field-protocol.md).
// Arguments: the port, or the path of a serial one, how much faster than ours its time runs, how many blank recorders lie beside it.
const [port = '4710', speed = '1', blanks = '1'] = process.argv.slice(2);
const world = new World(Number(speed) || 1);
const recorders = quayRecorders(world, Number(blanks));
const cradle = new PlayedCradle(recorders, world);
const close = await openDoor(cradle, 'The cradle', port);
const end = () => {
  close();
  process.exit(0);
};
process.on('SIGTERM', end);
process.on('SIGINT', end);
