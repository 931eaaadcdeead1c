const counted = (n: number, one: string) => (n === 0 ? [] : [n === 1 ? `1 ${one}` : `${n} ${one}s`]);

/** How many instruments of the field there are, and how many want attention. */
export function fieldSays({
  stations,
  recorders,
  attention,
}: {
  stations: number;
  recorders: number;
  attention: number;
}): {
  says: string;
  urgent: boolean;
} {
  const many =
    [...counted(stations, 'station'), ...counted(recorders, 'recorder')].join(', ') || 'nobody yet';
  const look = attention ? `, ${attention} ${attention === 1 ? 'wants' : 'want'} a look` : '';
  return { says: many + look, urgent: attention > 0 };
}
