<!-- What happens by itself: each rule as its sentences, with its state and when it fired. -->
<script lang="ts">
  import type { Condition } from '$core/condition/condition';
  import type { Names } from '$core/sentence/sentence';
  import type { Overview } from '$contract/overview';
  import {
    deedSentence,
    newDeed,
    ruleChannels,
    ruleConflicts,
    ruleEndSentence,
    ruleSentence,
    type Deed,
    type Rule,
  } from '$contract/rule';
  import { call, faultText } from '../api';
  import ConditionView from '../sentence/ConditionView.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    rules: Overview['rules'];
    /** Hosts that rules may call. */
    hosts: string[];
    names: Names;
    firstChannel: string | null;
  };
  let { rules, hosts, names, firstChannel }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  async function act(work: () => Promise<unknown>) {
    try {
      await work();
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const change = (id: string) => async (key: string, value: unknown) => {
    await call('PATCH /api/rules/[id]', { params: { id }, body: { [key]: value } });
    await shell.refresh();
  };
  const move = (from: number, to: number) => {
    const ids = rules.map((r) => r.id);
    ids.splice(to, 0, ...ids.splice(from, 1));
    return act(() => call('POST /api/rules/order', { body: { ids } }));
  };
  const setDeeds = (id: string, deeds: Deed[]) => change(id)('deeds', deeds);
  const setDeed = (id: string, rule: Rule, k: number) => (key: string, value: unknown) =>
    setDeeds(
      id,
      rule.deeds.map((d, i) => (i === k ? { ...d, [key]: value } : d)),
    );
  const add = () =>
    act(() =>
      call('POST /api/rules', {
        body: {
          when: {
            join: 'all',
            terms: [
              {
                channel: firstChannel,
                test: 'rises above',
                level: 0,
                high: 1,
                over: 1,
                hold: null,
                hysteresis: null,
              },
            ],
          },
        },
      }),
    );
  const missing = (id: string) => {
    const { rule } = rules.find((r) => r.id === id)!;
    return ruleChannels(rule).some((channel) => !names.channel(channel));
  };
  const stateOf = (id: string) => {
    const state = feed.status.rules.find((r) => r.id === id);
    if (rules.find((r) => r.id === id)!.rule.off) return 'switched off';
    if (missing(id)) return '◇ broken: a channel of it was removed';
    if (!state) return 'idle: a channel it reads is not measured';
    const word = state.holds ? 'holds' : 'armed';
    if (!state.fired || !state.lastMs) return word;
    const time = new Date(state.lastMs).toLocaleTimeString('en-GB');
    return `${word} · fired ${state.fired === 1 ? 'once' : `${state.fired} times`}, last ${time}`;
  };
  const unlisted = (rule: Rule) => [
    ...new Set(
      rule.deeds.flatMap((d) => {
        if (d.do !== 'call an address' || !URL.canParse(d.address)) return [];
        const { host } = new URL(d.address);
        return hosts.includes(host.toLowerCase()) ? [] : [host];
      }),
    ),
  ];
  const conflicts = $derived(ruleConflicts(rules));
  const numberOf = (id: string) => rules.findIndex((r) => r.id === id) + 1;
</script>

<div class="row">
  <h2>Rules</h2>
  <button class="dotted small" onclick={() => void add()}>add a rule</button>
</div>
{#each rules as { id, rule }, n (id)}
  {@const both = conflicts.filter((c) => c.rules[1] === id)}
  <div class="rule" class:off={rule.off} data-rule={n + 1}>
    <div class="cause">
      <SentenceView sentence={ruleSentence} value={rule} {names} change={change(id)} />
      {#if rule.cause === 'when'}
        <ConditionView
          condition={rule.when}
          {names}
          label="Condition of rule {n + 1}"
          change={(next: Condition) => change(id)('when', next)}
        />
      {/if}
    </div>
    {#each rule.deeds as deed, k (k)}
      <div class="deed" data-deed={k}>
        <SentenceView sentence={deedSentence} value={deed} {names} change={setDeed(id, rule, k)} />
        {#if rule.deeds.length > 1}<button
            class="quiet"
            aria-label="Take this deed out"
            onclick={() =>
              void setDeeds(
                id,
                rule.deeds.filter((_, i) => i !== k),
              )}>×</button
          >{/if}
        {#if k === rule.deeds.length - 1 && rule.deeds.length < 8}<button
            class="quiet"
            onclick={() => void setDeeds(id, [...rule.deeds, newDeed()])}>then …</button
          >{/if}
      </div>
    {/each}
    {#each unlisted(rule) as host (host)}
      <p class="warn">
        ▲ {host} is not on the list of hosts that rules may call: nothing is sent.
        <button
          class="dotted"
          onclick={() => void act(() => call('POST /api/hosts', { body: { host, allowed: true } }))}
          >Allow {host}</button
        >
      </p>
    {/each}
    {#each both as conflict (conflict.output + conflict.rules.join())}
      <p class="warn">
        ▲ Rules {conflict.rules.map(numberOf).join(' and ')} both drive {names.channel(conflict.output)
          ?.name}: the later one has the last word.
      </p>
    {/each}
    <div class="muted small">
      <SentenceView sentence={ruleEndSentence} value={rule} {names} change={change(id)} />
      <span class="fired" class:broken={missing(id)}>{stateOf(id)}</span>
      {#if rules.length > 1}
        <button
          class="remove"
          aria-label="Rule {n + 1} acts earlier"
          disabled={n === 0}
          onclick={() => void move(n, n - 1)}>↑</button
        ><button
          class="remove"
          aria-label="Rule {n + 1} acts later"
          disabled={n === rules.length - 1}
          onclick={() => void move(n, n + 1)}>↓</button
        >
      {/if}
      <button
        class="remove"
        onclick={() =>
          void act(() => call('PATCH /api/rules/[id]', { params: { id }, body: { off: !rule.off } }))}
        >{rule.off ? 'switch on' : 'switch off'}</button
      >
      <button
        class="remove"
        aria-label="Remove rule {n + 1}"
        onclick={() => void act(() => call('DELETE /api/rules/[id]', { params: { id } }))}>remove</button
      >
    </div>
  </div>
{:else}<p class="muted">Nothing happens by itself yet.</p>{/each}

<style>
  .row {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .rule {
    border-bottom: 1px solid var(--hair);
    padding: var(--space-1) 0;
  }
  .rule :global(.sentence) {
    font-size: var(--type-body);
    line-height: 1.7;
  }
  .cause {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .fired {
    margin-left: auto;
  }
  .rule.off .cause,
  .rule.off .deed {
    opacity: 0.6;
  }
  .remove:disabled {
    visibility: hidden;
  }
  .broken {
    color: var(--red);
  }
  .deed {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .small {
    font-size: var(--type-small);
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  .quiet,
  .remove {
    color: var(--muted);
    font-size: var(--type-small);
    flex-shrink: 0;
    min-width: 24px;
    min-height: 24px;
  }
  .rule :global(button.dotted) {
    margin-block: 0;
  }
  .quiet:hover,
  .remove:hover {
    color: var(--plum);
  }
  .warn {
    color: var(--ochre);
    font-size: var(--type-small);
    margin: var(--space-half) 0;
  }
</style>
