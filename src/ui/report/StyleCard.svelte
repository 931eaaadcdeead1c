<!-- What every page of every report has: words at its head and foot, a logo, the decimal sign. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { houseStyleSentence, type HouseStyle } from '$contract/report';
  import { TRACES } from '$contract/palette';
  import { call, faultText } from '../api';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { style: HouseStyle };
  let { style }: Props = $props();
  const shell = useShell();

  async function put(change: Partial<HouseStyle>): Promise<void> {
    await call('PUT /api/reports/style', { body: { ...style, ...change } });
    await shell.refresh();
  }
  const colours = $derived(style.colours ?? [...TRACES]);
  const paint = (k: number, colour: string) =>
    put({ colours: k < 0 ? null : colours.map((c, i) => (i === k ? colour : c)) }).catch((error) =>
      shell.say(faultText(error)),
    );
  async function logo(file: File | undefined) {
    if (!file) return;
    try {
      await put({ logo: (await call('POST /api/pictures', { file })).id });
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<h2 class="second">Style of the house</h2>
<SentenceView
  sentence={houseStyleSentence}
  value={style}
  names={NO_NAMES}
  change={(key, value) => put({ [key]: value })}
/>
<p class="logo">
  {#if style.logo !== null}
    <img src={resolve(`/api/pictures/${style.logo}`)} alt="The logo" />
    <button class="dotted" onclick={() => void put({ logo: null })}>without a logo</button>
  {:else}
    <label class="dotted file"
      >Choose a logo<input
        type="file"
        accept=".png,.jpg,.jpeg"
        onchange={(e) => void logo(e.currentTarget.files?.[0])}
      /></label
    >
  {/if}
</p>

<p class="logo" data-testid="colours">
  <span>Traces</span>
  {#each colours as colour, k (k)}
    <input
      type="color"
      value={colour}
      aria-label="Colour of trace {k + 1}"
      onchange={(e) => void paint(k, e.currentTarget.value)}
    />
  {/each}
  {#if style.colours}<button class="dotted" onclick={() => void paint(-1, '')}>as they come</button>{/if}
</p>

<style>
  .file input {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  input[type='color'] {
    width: 1.6rem;
    height: 1.3rem;
    padding: 0;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: none;
    cursor: pointer;
  }
  .second {
    margin-top: var(--space-5);
  }
  .logo {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin: var(--space-2) 0 0;
    font-size: var(--type-small);
  }
  img {
    max-height: 2.4rem;
    max-width: 10rem;
  }
</style>
