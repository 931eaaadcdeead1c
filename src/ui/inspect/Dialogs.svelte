<!-- The dialogs of the page of recorded takes, each fetched once it is wanted. -->
<script lang="ts">
  import Late from '../kit/Late.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { Desk, DialogName } from './desk.svelte';

  type Props = { desk: Desk };
  let { desk }: Props = $props();
  const shell = useShell();
  const insp = $derived(desk.insp);
  const main = $derived(desk.insp.main);

  const opened = (name: DialogName) => ({
    get open() {
      return desk.dialog === name;
    },
    set open(is: boolean) {
      if (is) desk.dialog = name;
      else if (desk.dialog === name) desk.dialog = '';
    },
  });
  const bring = opened('bring');
  const bin = opened('bin');
  const save = opened('export');
  const judge = opened('judge');
  const note = opened('note');
  const mend = opened('mend');
  const make = opened('make');

  const anew = () => void desk.refresh(true);
  const ofTake = (s: number) => Math.min(main.durationS, Math.max(0, s + desk.zero));
</script>

<Late wanted={bring.open} part={() => import('./Imports.svelte')}>
  {#snippet children(Imports)}<Imports
      bind:open={bring.open}
      bind:dropped={desk.dropped}
      done={(ids) => void desk.brought(ids)}
    />{/snippet}
</Late>
<Late wanted={bin.open} part={() => import('./BinDialog.svelte')}>
  {#snippet children(BinDialog)}<BinDialog
      bind:open={bin.open}
      changed={() => void desk.refresh(false).then(() => shell.refresh())}
    />{/snippet}
</Late>
{#if main}
  <Late wanted={save.open} part={() => import('../take/ExportForm.svelte')}>
    {#snippet children(ExportForm)}
      <ExportForm
        bind:open={save.open}
        takes={desk.marked.size > 1 ? [...desk.marked] : [main.head.id]}
        signals={main.signals}
      />
    {/snippet}
  </Late>
  <Late wanted={judge.open} part={() => import('./JudgeDialog.svelte')}>
    {#snippet children(JudgeDialog)}<JudgeDialog
        bind:open={judge.open}
        takes={desk.judged}
        done={anew}
      />{/snippet}
  </Late>
  <Late wanted={note.open} part={() => import('./NoteDialog.svelte')}>
    {#snippet children(NoteDialog)}
      <NoteDialog
        bind:open={note.open}
        take={{ id: main.head.id, name: main.head.name }}
        note={desk.note}
        done={anew}
      />
    {/snippet}
  </Late>
  <Late wanted={make.open} part={() => import('./MakeDialog.svelte')}>
    {#snippet children(MakeDialog)}
      {#key main.head.id}
        <MakeDialog
          bind:open={make.open}
          take={main}
          takes={desk.marked.size > 1 ? [...desk.marked] : [main.head.id]}
          channels={desk.making}
          window={[ofTake(insp.window[0]), ofTake(insp.window[1])]}
          done={desk.mended}
        />
      {/key}
    {/snippet}
  </Late>
  <Late wanted={mend.open && desk.mending !== null} part={() => import('./MendDialog.svelte')}>
    {#snippet children(MendDialog)}
      {#if desk.mending}
        {#key desk.mending.id}
          <MendDialog
            bind:open={mend.open}
            take={main}
            signal={desk.mending}
            window={[ofTake(insp.window[0]), ofTake(insp.window[1])]}
            span={desk.between && [ofTake(desk.between[0]), ofTake(desk.between[1])]}
            done={desk.mended}
          />
        {/key}
      {/if}
    {/snippet}
  </Late>
{/if}
