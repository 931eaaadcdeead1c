/** Text of a reading, rounded at the place of the second digit of its uncertainty (JCGM 100:2008, 7.2.6), or to a number
 *  of significant digits when no uncertainty is known. NaN gives an en dash. */
export function readingText(value: number, options: { uncertainty?: number; digits?: number } = {}): string {
  if (!Number.isFinite(value)) return '–';
  const { uncertainty, digits = 4 } = options;
  if (uncertainty && uncertainty > 0) return fixed(value, 1 - Math.floor(Math.log10(uncertainty)));
  const size = Math.abs(value);
  if (size === 0) return '0';
  if (size >= 1e6 || size < 1e-4) return scientific(value, digits);
  return fixed(value, Math.max(0, digits - 1 - Math.floor(Math.log10(size))));
}

/** Decimals that let a display over a range keep still: the range is split into about 2000 steps. */
export const rangeDecimals = (min: number, max: number) =>
  Math.min(6, Math.max(0, Math.ceil(-Math.log10((max - min) / 2000 || 1))));

/** @param decimals below 0 round to tens, hundreds and so on */
export function fixed(value: number, decimals: number): string {
  const place = 10 ** Math.max(0, -decimals);
  const rounded = place > 1 ? Math.round(value / place) * place : value;
  const text = rounded.toFixed(Math.min(12, Math.max(0, decimals)));
  return /^-0(\.0*)?$/.test(text) ? text.slice(1) : text.replace('-', '−');
}

const SUPERSCRIPT: Record<string, string> = {
  '-': '⁻',
  '0': '⁰',
  '1': '¹',
  '2': '²',
  '3': '³',
  '4': '⁴',
  '5': '⁵',
  '6': '⁶',
  '7': '⁷',
  '8': '⁸',
  '9': '⁹',
};

function scientific(value: number, digits: number): string {
  const [mantissa, exponent] = value.toExponential(digits - 1).split('e');
  const power = [...exponent.replace('+', '')].map((sign) => SUPERSCRIPT[sign]).join('');
  return `${mantissa.replace('-', '−')} × 10${power}`;
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
/** A day kept as 2027-03-14 in words that no place reads otherwise: “14 Mar 2027”. What is no day stays as it is. */
export function dayText(iso: string): string {
  const [, year, month, day] = /^(\d{4})-(\d\d)-(\d\d)$/.exec(iso) ?? [];
  return year && MONTHS[Number(month) - 1] ? `${Number(day)} ${MONTHS[Number(month) - 1]} ${year}` : iso;
}

/** Decimals of a time in s that tell neighbouring samples apart. @param rateHz of the fastest signal */
export const timeDecimals = (rateHz: number) =>
  Math.min(7, Math.max(2, Math.ceil(Math.log10(Math.max(1, rateHz)))));

/** 252.6 s as 04:12.6, longer times with hours. */
export function clockText(seconds: number, decimals = 1): string {
  const sign = seconds < 0 ? '−' : '';
  const total = Math.abs(Number(seconds.toFixed(decimals)));
  const h = Math.floor(total / 3600);
  const m = Math.floor(total / 60) % 60;
  const s = (total % 60).toFixed(decimals).padStart(decimals ? decimals + 3 : 2, '0');
  return `${sign}${h ? `${h}:` : ''}${String(m).padStart(2, '0')}:${s}`;
}

/** A number for paper: no superscripts, which its fonts draw only in part; whole numbers as they are. */
export const plainReading = (value: number): string =>
  Number.isInteger(value) && Math.abs(value) < 1e15
    ? String(value)
    : Math.abs(value) >= 1e6 || (value !== 0 && Math.abs(value) < 1e-4)
      ? value.toExponential(2)
      : readingText(value);
