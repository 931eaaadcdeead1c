import { z } from 'zod';

/** Signs that cannot be seen or that turn the text around them: what is read would not be what is written. */
const UNSEEN = /[\p{Cc}\p{Zl}\p{Zp}\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]/u;
/** Half of a pair of code units: no text. */
const LONE = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

/** Why a text cannot be a name; null when it can. */
function fault(text: string): string | null {
  if (text === '') return 'Write something here.';
  if (UNSEEN.test(text)) return 'It holds signs that cannot be seen: type it anew.';
  return LONE.test(text) ? 'It holds a broken character: type it anew.' : null;
}

/** A name as people give one: without blanks at its ends, in one form of its accents, with nothing in it that cannot be seen.
 *  @param most characters @param forFormulas true for what formulas quote: without quotation marks and backslashes */
export const nameText = (most: number, forFormulas = false) =>
  z
    .string()
    .max(most * 4, `At most ${most} characters.`)
    .transform((text) => (LONE.test(text) ? text : text.normalize('NFC')).trim())
    .superRefine((text, context) => {
      const why =
        fault(text) ??
        ([...text].length > most
          ? `At most ${most} characters.`
          : forFormulas && /["\\]/.test(text)
            ? 'Leave out quotation marks and backslashes: formulas use them.'
            : null);
      if (why) context.addIssue({ code: 'custom', message: why, input: text });
    });

/** The name of a channel: formulas quote it. */
export const ChannelName = nameText(80, true);
