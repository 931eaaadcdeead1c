import { z } from 'zod';
import { StationWish, type StationView, type StationsView } from '../station';
import { endpoints, nothing, told } from './endpoint';

const Text = z.string().max(30_000);

/** Stations of the field: programmes, tables and values of instruments that work by themselves. */
export const stationPart = endpoints({
  'GET /api/field/stations': {
    says: 'All stations, with their health at a glance.',
    need: 'look',
    answer: told<StationsView>('As it is now.'),
  },
  'POST /api/field/stations': {
    says: 'Adds a station.',
    need: 'controls',
    body: z.strictObject({ wish: StationWish }),
    answer: told<{ id: string }>('Its id.'),
  },
  'GET /api/field/stations/[id]': {
    says: 'A station: its programme, what it holds, what it said last.',
    need: 'look',
    answer: told<StationView>('As it is known; nothing is asked of the station.'),
  },
  'PUT /api/field/stations/[id]': {
    says: 'How a station is reached and looked after.',
    need: 'controls',
    body: z.strictObject({ wish: StationWish }),
    answer: nothing,
  },
  'DELETE /api/field/stations/[id]': {
    says: 'Lets a station go. Takes of it stay.',
    need: 'controls',
    answer: nothing,
  },
  'POST /api/field/stations/[id]/reach': {
    says: 'Connects to a station and asks how it is, and for its values; the line stays for as long as it is asked at least every 15 s.',
    need: 'look',
    asks: true,
    answer: told<StationView>('As it is now; its link tells whether it was reached.'),
  },
  'PUT /api/field/stations/[id]/draft': {
    says: 'The programme that is being written for a station, as text.',
    need: 'take part',
    body: z.strictObject({ text: Text }),
    answer: nothing,
  },
  'POST /api/field/stations/[id]/send': {
    says: 'Fetches what the station holds, sends it a programme, which erases that, and waits for what its compiler says.',
    need: 'controls',
    body: z.strictObject({ text: Text, withoutFetching: z.string().trim().min(3).max(200).optional() }),
    answer: nothing,
  },
  'POST /api/field/stations/[id]/fetch': {
    says: 'Fetches what is new in a station’s tables.',
    need: 'take part',
    body: z.strictObject({ tables: z.array(z.string().max(60)).max(20).optional() }),
    answer: nothing,
  },
  'DELETE /api/field/stations/[id]/fetch': {
    says: 'Stops fetching; what has come stays.',
    need: 'take part',
    answer: nothing,
  },
  'POST /api/field/stations/[id]/clock': {
    says: 'Sets a station’s clock to ours.',
    need: 'controls',
    answer: nothing,
  },
  'POST /api/field/stations/[id]/set': {
    says: 'Switches a station’s output, or sets what it adds to a value.',
    need: 'controls',
    body: z.strictObject({ what: z.enum(['output', 'plus']), name: z.string().max(60), value: z.number() }),
    answer: nothing,
  },
  'POST /api/field/stations/[id]/play': {
    says: 'Of a station that plays: lets it fall ill, lose its power or its time.',
    need: 'take part',
    body: z.strictObject({ do: z.enum(['none', 'broken', 'reversed', 'battery low', 'cable', 'warm', 'power', 'clock', 'speed']), seconds: z.number().min(-1e7).max(1e7).optional(), times: z.number().min(1).max(10_000).optional() }), // prettier-ignore
    answer: nothing,
  },
});
