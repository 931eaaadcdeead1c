<!-- Words of one’s own. -->
<script lang="ts">
  import type { ViewProps } from '../view';

  let { view, change }: ViewProps = $props();
</script>

<textarea
  value={view.text}
  aria-label="Text"
  placeholder="Write something that stands on the board."
  onchange={(e) => change({ text: e.currentTarget.value })}></textarea>

<style>
  textarea {
    flex: 1;
    border: 0;
    background: none;
    resize: none;
    padding: 0 var(--space-3) var(--space-2);
    font-size: var(--type-body);
    min-height: 0;
  }
</style>
