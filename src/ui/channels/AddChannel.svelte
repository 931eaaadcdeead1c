<!-- Adds a channel: a name, a free terminal (or computed), and what kind of sensor is on it. -->
<script lang="ts">
  import { CHANNEL_KINDS } from '$contract/kinds/kinds';
  import type { Channel } from '$contract/channel';
  import type { UnitState } from '$contract/unit';
  import { Button, Input, Label, Select } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    open: boolean;
    terminal: string | null;
    channels: Channel[];
    units: UnitState[];
    added: (id: string) => void;
  };
  let { open = $bindable(), terminal, channels, units, added }: Props = $props();
  const shell = useShell();

  const COMPUTED = 'computed';
  const EXAMPLE = '"Shaft torque" * 2';
  let name = $state('');
  let place = $state('');
  let kind = $state('');
  let formula = $state('');
  let fault = $state<FaultText | null>(null);

  const taken = $derived(
    new Set(channels.flatMap((c) => (c.wire ? [`${c.wire.unit} ${c.wire.terminal}`] : []))),
  );
  const free = $derived(
    units.flatMap(({ description: d }) =>
      d.modules.flatMap((m) =>
        m.terminals
          .filter((t) => !taken.has(`${d.serial} ${t.id}`))
          .map((t) => ({
            value: `${d.serial} ${t.id}`,
            name: `${units.length > 1 ? `${d.name}: ` : ''}${t.label ?? t.id}  ${m.title}`,
            kind: t.kind,
          })),
      ),
    ),
  );
  const kinds = $derived.by(() => {
    const at = free.find((f) => f.value === place);
    return CHANNEL_KINDS.filter((k) => (at ? k.accepts.includes(at.kind) : k.kind === COMPUTED)).map((k) => ({
      value: k.kind,
      name: k.kind,
    }));
  });

  $effect(() => {
    if (!open) return;
    const wanted = free.find((f) => f.value === terminal || f.value.endsWith(` ${terminal}`));
    if (wanted) place = wanted.value;
    else if (!place) place = free[0]?.value ?? COMPUTED;
  });
  $effect(() => {
    if (!kinds.some((k) => k.value === kind)) kind = kinds[0]?.value ?? '';
  });

  async function add() {
    const cut = place.indexOf(' ');
    const [unit, at] = [place.slice(0, cut), place.slice(cut + 1)];
    const settings = kind === COMPUTED ? { formula } : undefined;
    try {
      const made = await call('POST /api/channels', {
        body: {
          name,
          kind,
          wire: kind === COMPUTED ? null : { unit, terminal: at },
          settings,
        },
      });
      fault = null;
      open = false;
      name = formula = place = '';
      await shell.refresh();
      added([made].flat()[0].id);
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<Dialog bind:open title="Add a channel" size="sm">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <Label for="new-name" class="mb-1">Name</Label>
    <Input
      id="new-name"
      bind:value={name}
      class="mb-3"
      placeholder="What it measures, and where"
      autocomplete="off"
    />
    <Label for="new-place" class="mb-1">Wired to</Label>
    <Select
      id="new-place"
      bind:value={place}
      items={[...free, { value: COMPUTED, name: 'nothing: computed from other channels' }]}
      class="mb-3"
    />
    <Label for="new-kind" class="mb-1">Kind</Label>
    <Select id="new-kind" bind:value={kind} items={kinds} class="mb-3" />
    {#if kind === COMPUTED}
      <Label for="new-formula" class="mb-1">Formula</Label>
      <Input
        id="new-formula"
        bind:value={formula}
        class="mb-3 font-mono"
        placeholder={EXAMPLE}
        autocomplete="off"
      />
    {/if}
    {#if fault}<FaultNote {fault} />{/if}
    <div class="row">
      <Button type="submit">Add it</Button><span class="muted"
        >Its settings can be changed in its sentence.</span
      >
    </div>
  </form>
</Dialog>

<style>
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin-top: var(--space-3);
    font-size: var(--type-small);
  }
</style>
