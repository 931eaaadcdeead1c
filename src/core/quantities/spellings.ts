import { plainSymbol, readSymbol } from './symbols';

/** How the trade writes units beside their symbols, in small letters where that leaves no doubt. */
const SPELLINGS: Record<string, string> = {
  nm: 'N·m', knm: 'kN·m', mnm: 'mN·m', 'n-m': 'N·m', 'kn-m': 'kN·m', 'lbf·ft': 'lbf·ft', lbfft: 'lbf·ft',
  degc: '°C', degreec: '°C', degreesc: '°C', celsius: '°C', '℃': '°C', ºc: '°C', '˚c': '°C',
  degf: '°F', fahrenheit: '°F', '℉': '°F', ºf: '°F', '˚f': '°F', kelvin: 'K', degk: 'K',
  deg: '°', degree: '°', degrees: '°', º: '°', '˚': '°', 'deg/s': '°/s',
  ohm: 'Ω', ohms: 'Ω', kohm: 'kΩ', mohm: 'mΩ',
  volt: 'V', volts: 'V', amp: 'A', amps: 'A', ampere: 'A', watt: 'W', hertz: 'Hz', hz: 'Hz', khz: 'kHz',
  newton: 'N', pascal: 'Pa', kpa: 'kPa', hpa: 'hPa', mbars: 'mbar', bars: 'bar', metre: 'm', meter: 'm',
  l: 'L', litre: 'L', liter: 'L', litres: 'L', ml: 'mL', 'l/min': 'L/min', lpm: 'L/min', 'l/s': 'L/s', 'l/h': 'L/h',
  sec: 's', second: 's', seconds: 's', msec: 'ms', minute: 'min', minutes: 'min', hr: 'h', hour: 'h', hours: 'h', 'km/hr': 'km/h', kmh: 'km/h', kph: 'km/h',
  rpm: 'rpm', 'r/min': 'rpm', 'rev/min': 'rpm', 'u/min': 'rpm', rps: 'rev/s', turn: 'rev', turns: 'rev', revs: 'rev',
  knot: 'kn', knots: 'kn', inch: 'in', inches: 'in', foot: 'ft', feet: 'ft',
  microstrain: 'µε', ustrain: 'µε', µstrain: 'µε', ue: 'µε', 'µm/m': 'µε', 'um/m': 'µε', strain: 'm/m',
  um: 'µm', us: 'µs', uv: 'µV', ua: 'µA', µs: 'µs', micron: 'µm', microns: 'µm', mps: 'm/s', 'm/sec': 'm/s',
  percent: '%', pct: '%', '%rh': '%', '%r.h.': '%', promille: '‰',
  gee: 'g', gees: 'g', "g's": 'g', gn: 'gₙ', 'milli-g': 'mgₙ', grams: 'gram', milligram: 'mgram', tonne: 't', tonnes: 't', kilogram: 'kg', kgs: 'kg',
  ph: 'pH', db: 'dB', decibel: 'dB', bool: 'yes/no', boolean: 'yes/no', 'on/off': 'yes/no',
}; // prettier-ignore

/** Spellings that could mean two things, with what to write for each. */
const AMBIGUOUS: { is: RegExp; says: string }[] = [
  {
    is: /^[mµn]g$/,
    says: 'It can be a mass or a share of the acceleration of free fall: write “mgram” for the mass, “mgₙ” for the acceleration.',
  },
  {
    is: /^[mµn]?g\/(L|[mcd]*m³|[mcd]*m\^?3|min|h|d|mol)$/,
    says: 'Here g seems to be a gram: write “gram” for the mass, “gₙ” for the acceleration of free fall.',
  },
  { is: /^(lb|lbs|pound|pounds|kgf|kp)$/, says: 'It can be a mass or a force: write “kg” or “lbf”, or convert to N.' },
  { is: /^(gal|gpm|gph)$/i, says: 'Gallons differ by country: write L or L/min.' },
  { is: /^(bara|barg|psia|psig|mbara|mbarg)$/i, says: 'Write “bar” or “psi”; say in the channel’s name whether it is absolute or gauge.' },
]; // prettier-ignore

/** What a person wrote as a unit: its symbol, or why it can be meant in two ways. What is a symbol stays one; digits behind it are raised. */
export function spelled(text: string): { symbol: string } | { doubt: string } {
  const plain = plainSymbol(text);
  const doubt = AMBIGUOUS.find(({ is }) => is.test(plain));
  if (doubt) return { doubt: doubt.says };
  if (Object.hasOwn(OF_THEIR_OWN, plain)) return { symbol: OF_THEIR_OWN[plain] };
  const raised = plain.replace(/\^?2(?=$|[·/)])/g, '²').replace(/\^?3(?=$|[·/)])/g, '³');
  if (readSymbol(raised)) return { symbol: raised };
  const known = [plain, plain.toLowerCase()].find((key) => Object.hasOwn(SPELLINGS, key));
  return { symbol: known === undefined ? raised : SPELLINGS[known] };
}

/** Spellings that would read as something else: nobody measures picohenries. */
const OF_THEIR_OWN: Record<string, string> = { pH: 'pH', PH: 'pH', MOhm: 'MΩ', Mohm: 'MΩ', MNm: 'MN·m' };
