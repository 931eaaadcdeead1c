/** How many instruments of the field there are, and how many want attention. */
export function fieldSays({ recorders, attention }: { recorders: number; attention: number }): {
  says: string;
  urgent: boolean;
} {
  const many =
    recorders === 0 ? 'no recorder yet' : recorders === 1 ? '1 recorder' : `${recorders} recorders`;
  const look = attention ? `, ${attention} ${attention === 1 ? 'wants' : 'want'} a look` : '';
  return { says: many + look, urgent: attention > 0 };
}
