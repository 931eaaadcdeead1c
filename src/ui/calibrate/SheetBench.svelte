<!-- By certificate: type or paste what it says, see what it makes of the channel and whether it is plausible, attach the paper, accept. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import { sentenceFields } from '$core/sentence/sentence';
  import type { Method } from '$contract/calibration-record';
  import { channelKind, commonOf, type Channel } from '$contract/channel';
  import { sheetKeys } from '$contract/sensor';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import DayField from '../kit/DayField.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import Facts from '../kit/Facts.svelte';
  import Verdict from '../kit/Verdict.svelte';
  import { parseNumber } from '../sentence/options';
  import { useShell } from '../shell/shell.svelte';
  import BenchHead from './BenchHead.svelte';

  type Props = {
    channel: Channel;
    ways: Method[];
    present: { slope: number };
  };
  let { channel, ways, present }: Props = $props();
  const shell = useShell();

  const kind = $derived(channelKind(channel.kind));
  const { unit } = $derived(commonOf(channel));
  const fields = $derived(
    sentenceFields(kind.sentence.schema).filter((f) => sheetKeys(channel.kind).includes(f.key)),
  );
  const raw = $derived(kind.linear || kind.certified === 'from raw' ? kind.rawUnit : unit);
  const FORMS = ['values', 'line', 'table'] as const;
  const FORM_NAMES = { values: 'the sensor’s own values', line: 'slope and offset', table: 'a table' };
  // A page is made for each channel: what is typed belongs to it.
  // svelte-ignore state_referenced_locally
  let form = $state<(typeof FORMS)[number]>(sheetKeys(channel.kind).length ? 'values' : 'line');
  let typed = $state<Record<string, string>>({});
  let slope = $state('');
  let offset = $state('0');
  let rows = $state('');
  let goodTo = $state('');
  let goodToShare = $state('');
  let made = $state('');
  let due = $state('');
  let note = $state('');
  let answer = $state.raw<{
    slope: number;
    offset: number;
    rawUnit: string;
    warning: string | null;
    siblings: number;
  } | null>(null);
  let fault = $state<FaultText | null>(null);
  let said = $state('');

  const entry = $derived({
    settings:
      form === 'values'
        ? Object.fromEntries(
            Object.entries(typed)
              .filter(([, text]) => text.trim() !== '')
              .map(([key, text]) => {
                const number = parseNumber(text);
                return [key, Number.isNaN(number) ? text : number];
              }),
          )
        : {},
    line: form === 'line' ? { slope: parseNumber(slope), offset: parseNumber(offset || '0') } : null,
    table: form === 'table' ? pasted(rows) : null,
    goodTo: goodTo ? parseNumber(goodTo) : 0,
    goodToShare: goodToShare ? parseNumber(goodToShare) : 0,
    made,
    due,
    note,
  });

  /** Two columns, as they come from a spreadsheet: reading and value. */
  function pasted(text: string): { raw: number; value: number }[] {
    return text
      .split(/\r?\n/)
      .map((line) => line.trim())
      .filter(Boolean)
      .map((line) => {
        const [a, b] = line.split(/[\t;]|\s{2,}|(?<=\d)\s+(?=[-−+\d])/).map((cell) => parseNumber(cell));
        return { raw: a, value: b };
      })
      .filter((row) => Number.isFinite(row.raw) && Number.isFinite(row.value));
  }

  async function send(accept: boolean) {
    said = '';
    try {
      const got = await call('POST /api/calibrate/sheet', {
        body: {
          channelId: channel.id,
          entry,
          accept,
        },
      });
      fault = null;
      if (!accept) return void (answer = got);
      said = 'Accepted: in force from now on.';
      answer = null;
      await shell.refresh();
    } catch (error) {
      answer = null;
      fault = faultText(error);
    }
  }
  async function attach(input: HTMLInputElement) {
    const [file] = input.files ?? [];
    if (!file) return;
    try {
      await call('POST /api/sensors/[serial]', { params: { serial: channel.sensorSerial }, file });
      said = `${file.name} is with the papers of ${channel.sensorSerial}.`;
    } catch (error) {
      fault = faultText(error);
    }
    input.value = '';
  }
</script>

<div class="page">
  <BenchHead
    {channel}
    way="sheet"
    {ways}
    says={channel.sensorSerial ? `sensor ${channel.sensorSerial}` : 'no sensor named'}
  >
    <Button size="sm" color="alternative" onclick={() => void send(false)}>See what it makes</Button>
    <Button size="sm" onclick={() => void send(true)}>Accept</Button>
  </BenchHead>
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  <div class="columns">
    <section class="card">
      <h2>The certificate gives</h2>
      <div class="forms" role="radiogroup" aria-label="What the certificate gives">
        {#each FORMS.filter((f) => f !== 'values' || fields.length) as f (f)}
          <label><input type="radio" name="form" value={f} bind:group={form} /> {FORM_NAMES[f]}</label>
        {/each}
      </div>
      {#if form === 'values'}
        {#each fields as f (f.key)}
          <label class="field"
            ><span>{f.info.label}</span>
            {#if Array.isArray(f.info.options)}
              <select aria-label={f.info.label} bind:value={typed[f.key]}
                ><option value="">{String(channel.settings[f.key])}</option
                >{#each f.info.options.filter((o) => o !== channel.settings[f.key]) as o (o)}<option
                    value={String(o)}>{o}</option
                  >{/each}</select
              >
            {:else}<input
                class="mono"
                aria-label={f.info.label}
                placeholder={String(channel.settings[f.key])}
                bind:value={typed[f.key]}
              />{/if}
            <span class="muted">{f.info.unit ?? (f.info.unitFrom === 'unit' ? unit : '')}</span></label
          >
        {/each}
      {:else if form === 'line'}
        <label class="field"
          ><span>Slope</span><input
            class="mono"
            aria-label="Slope"
            placeholder={readingText(present.slope, { digits: 5 })}
            bind:value={slope}
          /><span class="muted">{unit}/{raw}</span></label
        >
        <label class="field"
          ><span>Offset</span><input class="mono" aria-label="Offset" bind:value={offset} /><span
            class="muted">{unit}</span
          ></label
        >
      {:else}
        <label class="tall"
          ><span>Two columns, {raw} and {unit}; paste them from a spreadsheet.</span><textarea
            rows="8"
            aria-label="Table"
            bind:value={rows}
            placeholder="0  0"></textarea></label
        >
        <p class="muted">{pasted(rows).length} rows understood.</p>
      {/if}
    </section>
    <section class="card">
      <h2>How good, until when</h2>
      <label class="field"
        ><span>Good to (k = 2)</span><input
          class="mono"
          aria-label="Good to"
          bind:value={goodTo}
          placeholder="0"
        /><span class="muted">{unit}</span></label
      >
      <label class="field"
        ><span>and a share</span><input
          class="mono"
          aria-label="Good to a share"
          bind:value={goodToShare}
          placeholder="0"
        /><span class="muted">% of it</span></label
      >
      <label class="field"
        ><span>Made on</span><DayField bind:value={made} label="Made on" /><span></span></label
      >
      <label class="field"><span>Due</span><DayField bind:value={due} label="Due" /><span></span></label>
      <label class="field"
        ><span>Note</span><input aria-label="Note" bind:value={note} maxlength="300" /><span></span></label
      >
      <h2 class="paper">The paper itself</h2>
      {#if channel.sensorSerial}
        <p class="muted">
          It is kept with the sensor. <label class="dotted"
            >Attach a file<input
              type="file"
              aria-label="Certificate"
              onchange={(e) => void attach(e.currentTarget)}
            /></label
          >
        </p>
      {:else}<p class="muted">
          Papers are kept with a sensor: <a class="dotted" href={resolve(`/channels#${channel.id}`)}
            >say which sensor this is</a
          >.
        </p>{/if}
    </section>
    <section class="card">
      <h2>What it makes</h2>
      <Facts
        facts={[
          { label: 'In force now', value: readingText(present.slope, { digits: 5 }), unit: `${unit}/${raw}` },
          ...(answer
            ? [
                {
                  label: 'By the sheet',
                  value: readingText(answer.slope, { digits: 5 }),
                  unit: `${unit}/${answer.rawUnit}`,
                  id: 'sheet-slope',
                },
                { label: 'Offset', value: readingText(answer.offset, { digits: 4 }), unit },
              ]
            : []),
        ]}
      />
      {#if answer?.warning}<Verdict role="alert">
          <strong>Doubtful.</strong>
          {answer.warning} It can be accepted all the same; the logbook keeps the doubt.
        </Verdict>
      {:else if answer && answer.siblings > 1}<Verdict good
          >It fits what {answer.siblings} others of its kind have.</Verdict
        >{/if}
      {#if said}<Verdict good role="status">{said}</Verdict>{/if}
    </section>
  </div>
</div>

<style>
  .columns {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: var(--space-3);
    align-items: start;
  }
  section {
    padding: var(--space-3) var(--space-4) var(--space-4);
  }
  .forms {
    display: flex;
    gap: var(--space-4);
    margin: var(--space-2) 0;
    flex-wrap: wrap;
  }
  .field {
    display: grid;
    grid-template-columns: 116px minmax(0, 1fr) 84px;
    gap: var(--space-2);
    align-items: center;
    margin-top: var(--space-1);
  }
  .field .muted {
    font-size: var(--type-small);
  }
  input:not([type]),
  select,
  textarea {
    width: 100%;
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    color: var(--ink);
  }
  .tall span {
    display: block;
    margin-bottom: var(--space-1);
    color: var(--muted);
    font-size: var(--type-small);
  }
  textarea {
    font-family: var(--font-mono);
  }
  .dotted input[type='file'] {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  .paper {
    margin-top: var(--space-4);
  }
  p {
    margin: var(--space-2) 0 0;
  }
</style>
