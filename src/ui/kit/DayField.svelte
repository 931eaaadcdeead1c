<!-- A day, typed as people of the place write it or chosen from a calendar; kept as 2027-03-14, '' for none. -->
<script lang="ts">
  import Late from './Late.svelte';
  import { dateOf, isoOf, typedExample, dayFault } from './days';

  type Props = { value: string; label: string; onchange?: (day: string) => void };
  let { value = $bindable(), label, onchange }: Props = $props();
  // As the browser is set up where it stands; the server's own pages are never seen.
  const locale = typeof navigator === 'undefined' ? 'en-GB' : navigator.language;
  const picked = $derived(dateOf(value));
  let input = $state<HTMLInputElement>();
  let wrong = $state<string | null>(null);

  function take(day: string) {
    wrong = null;
    if (day === value) return;
    value = day;
    onchange?.(day);
  }
  /** What stands in the field has to be a day, or nothing. Looked at before the calendar, which takes the 30th of February for March. */
  function look(event: Event) {
    const text = input?.value.trim() ?? '';
    if (event.target !== input || (event instanceof KeyboardEvent && event.key !== 'Enter')) return;
    wrong = text === '' ? null : dayFault(text, locale);
    if (wrong === null && text !== '') return;
    event.stopPropagation();
    if (text === '') take('');
  }
</script>

<div class="day" role="presentation" onchangecapture={look} onkeydowncapture={look}>
  <Late part={() => import('flowbite-svelte/Datepicker.svelte')}>
    {#snippet children(Datepicker)}
      <Datepicker
        value={picked}
        bind:elementRef={input}
        {locale}
        inputmode="text"
        dateFormat={{ year: 'numeric', month: '2-digit', day: '2-digit' }}
        placeholder={typedExample(locale)}
        firstDayOfWeek={1}
        inputClass="day-input"
        inputProps={{ 'aria-label': label, 'aria-invalid': wrong !== null }}
        onselect={(day) => day instanceof Date && take(isoOf(day))}
      />
    {/snippet}
  </Late>
  {#if wrong}<p class="wrong" role="alert">◆ {wrong}</p>{/if}
</div>

<style>
  .day {
    min-height: 30px;
  }
  .day :global(.day-input) {
    font-family: var(--font-mono);
    font-size: var(--type-body);
    padding: var(--space-1) var(--space-2);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    color: var(--ink);
    width: 150px;
  }
  .wrong {
    color: var(--red);
    font-size: var(--type-small);
    margin: var(--space-half) 0 0;
  }
</style>
