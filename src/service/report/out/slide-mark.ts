/** Words by which a slide is known as one of a report, whoever has arranged it since. */
export const SLIDE_MARK = 'Of the report';
