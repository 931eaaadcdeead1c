const [FIRST_YEAR, LAST_YEAR] = [1900, 2200];

/** A day as 2027-03-14; '' for one that cannot be meant. Of the local calendar: no hour of a zone moves it. */
export function isoOf(day: Date): string {
  const year = day.getFullYear();
  if (Number.isNaN(year) || year < FIRST_YEAR || year > LAST_YEAR) return '';
  const two = (n: number) => String(n).padStart(2, '0');
  return `${year}-${two(day.getMonth() + 1)}-${two(day.getDate())}`;
}

/** The local day of 2027-03-14; undefined for none. */
export function dateOf(iso: string): Date | undefined {
  const [, year, month, day] = /^(\d{4})-(\d\d)-(\d\d)$/.exec(iso) ?? [];
  return year ? new Date(Number(year), Number(month) - 1, Number(day)) : undefined;
}

const NUMERIC = { year: 'numeric', month: '2-digit', day: '2-digit' } as const;
/** How a day is typed in a place, by an example whose day cannot be taken for a month. */
export const typedExample = (locale: string): string =>
  new Date(2027, 2, 14).toLocaleDateString(locale, NUMERIC);

/** In which order a place writes day, month and year. */
const orderIn = (locale: string) =>
  new Intl.DateTimeFormat(locale, NUMERIC)
    .formatToParts(new Date(2027, 2, 14))
    .flatMap(({ type }) => (type === 'day' || type === 'month' || type === 'year' ? [type] : []));

/** Why what is typed is no day of that place's calendar, or null when it is one. */
export function dayFault(text: string, locale: string): string | null {
  const numbers = text.match(/\d+/g)?.map(Number) ?? [];
  const iso = /^\d{4}-/.test(text.trim());
  const order = iso ? ['year', 'month', 'day'] : orderIn(locale);
  const part = (name: string) => numbers[order.indexOf(name)] ?? NaN;
  const [year, month, day] = ['year', 'month', 'day'].map(part);
  const made = new Date(year, month - 1, day);
  const there =
    made.getFullYear() === year &&
    made.getMonth() === month - 1 &&
    made.getDate() === day &&
    isoOf(made) !== '';
  if (numbers.length === 3 && there) return null;
  return `“${text}” is no day. Write it like ${typedExample(locale)}.`;
}
