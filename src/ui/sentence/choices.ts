import { getContext, setContext } from 'svelte';

/** A channel as an editor offers it. */
export interface ChannelChoice {
  id: string;
  name: string;
  unit: string;
}

const KEY = Symbol('channel choices');

/** Channels that an editor of a field offers. */
export type Choices = (field: string) => ChannelChoice[];

/** Sets which channels the editors below this component offer. */
export const provideChoices = (choices: Choices) => setContext(KEY, choices);
export const useChoices = (): Choices => getContext<Choices | undefined>(KEY) ?? (() => []);
