import mqtt, { type MqttClient } from 'mqtt';
import { badInput } from '$core/errors';
import { atPointer, numberOf } from '$core/lines/split';
import { described, type UnitDriver } from '../driver';
import { Link } from '../link';
import { HELD_RATES, Hearing, MessageValues, heldInputs } from '../message-values';

interface Topic {
  id: string;
  name: string;
  topic: string;
  pointer: string;
}

const LONGEST = 1_000_000;

/** The number in a message: the message itself, or what stands at a JSON pointer. @returns null where there is none */
export function numberInMessage(payload: string, pointer: string): number | null {
  if (payload.length > LONGEST) return null;
  if (pointer === '')
    return /^\s*(true|false)\s*$/i.test(payload) ? (/true/i.test(payload) ? 1 : 0) : numberOf(payload);
  try {
    const value = atPointer(JSON.parse(payload), pointer);
    if (typeof value === 'boolean') return value ? 1 : 0;
    return typeof value === 'number' && Number.isFinite(value)
      ? value
      : typeof value === 'string'
        ? numberOf(value)
        : null;
  } catch {
    return null;
  }
}

/** Topics of an MQTT broker. */
export const mqttTopics: UnitDriver = {
  kind: 'MQTT topics',
  open(unit, clock) {
    const { url, user, password } = unit.config.settings as { url: string; user: string; password: string };
    const topics = unit.config.sources as unknown as Topic[];
    const values = new MessageValues();
    const hearing = new Hearing();
    let client: MqttClient | null = null;
    const link = new Link(url || 'MQTT', () => {
      if (!url) throw badInput('broker', 'not given', 'Give its address on the unit’s page.');
      client = mqtt.connect(url, {
        reconnectPeriod: 0,
        connectTimeout: 5000,
        ...(user && { username: user }),
        ...(password && { password }),
      });
      let why = 'The broker closed the connection.';
      client.on('connect', () => {
        const wanted = [...new Set(topics.map((t) => t.topic))];
        if (wanted.length) client!.subscribe(wanted, (error) => error && (why = error.message));
        link.up();
      });
      client.on(
        'error',
        (error) =>
          (why = error.message || String((error as { code?: string }).code ?? 'It does not answer.')),
      );
      client.on('close', () => {
        client?.removeAllListeners();
        client?.on('error', () => undefined);
        client?.end(true);
        client = null;
        link.down(why);
      });
      client.on('message', (topic, bytes) => {
        const atNs = clock();
        const payload = bytes.length > LONGEST ? '' : bytes.toString('utf8');
        const faults: string[] = [];
        for (const row of topics.filter((t) => t.topic === topic)) {
          const value = numberInMessage(payload, row.pointer);
          if (value === null)
            faults.push(`no number for ${row.name}${row.pointer ? ` at ${row.pointer}` : ''}`);
          else values.arrive(`T/${row.id}`, value, atNs);
        }
        if (bytes.length > LONGEST) faults.unshift(`a message of ${bytes.length} bytes was passed over`);
        hearing.add({
          timeMs: Number(atNs / 1_000_000n),
          text: `${topic}  ${payload}`,
          says: faults.join('; '),
          ok: faults.length === 0,
        });
      });
    });
    return {
      describe: () =>
        described(unit, {
          modules: [
            {
              id: 'T',
              title: 'topics',
              terminals: topics.map((t) => ({ id: `T/${t.id}`, kind: 'value' as const, label: t.name })),
              ratesHz: HELD_RATES,
              bandwidthShare: 0,
            },
          ],
          abilities: ['monitor', 'reset'],
          counts: [
            { what: 'messages', count: hearing.good },
            { what: 'messages not understood', count: hearing.bad },
          ],
        }),
      ...heldInputs(link, values, 'No message has arrived on its topic yet.'),
      setOutput: () => {
        throw badInput('output', url, 'Topics are read only.');
      },
      heard: () => hearing.last,
      reset: () => client?.end(true),
      close() {
        link.close();
        const last = client;
        client = null;
        last?.removeAllListeners();
        last?.on('error', () => undefined);
        last?.end(true);
      },
    };
  },
};
