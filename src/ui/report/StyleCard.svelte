<!-- What every page of every report has: words at its head and foot, a logo, the decimal sign. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { houseStyleSentence, type HouseStyle } from '$contract/report';
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
    <label
      >Logo <input
        type="file"
        accept=".png,.jpg,.jpeg"
        onchange={(e) => void logo(e.currentTarget.files?.[0])}
      /></label
    >
  {/if}
</p>

<style>
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
