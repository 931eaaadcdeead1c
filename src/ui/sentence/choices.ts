import { getContext, setContext } from 'svelte';

/** A channel as an editor offers it. */
export interface ChannelChoice {
  id: string;
  name: string;
  unit: string;
  driven: boolean;
}

const KEY = Symbol('channel choices');

/** Sets which channels the editors below this component offer. */
export const provideChoices = (choices: () => ChannelChoice[]) => setContext(KEY, choices);
export const useChoices = (): (() => ChannelChoice[]) =>
  getContext<(() => ChannelChoice[]) | undefined>(KEY) ?? (() => []);
