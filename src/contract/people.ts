/** A browser that looks on. */
export interface Viewer {
  id: string;
  name: string;
}

/** Who looks on, and who may change things. */
export interface People {
  /** The browser that holds the controls; null while nobody does. */
  holder: Viewer | null;
  /** Those who ask for them. */
  asks: Viewer[];
  viewers: number;
  /** How many of them came by a link that can only watch. */
  watchers: number;
}
/** The same, with who is told. */
export interface PeopleNews extends People {
  you: Viewer & { watches: boolean };
}
