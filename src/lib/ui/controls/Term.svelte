<script lang="ts">
  import { meaningOf } from '#words';
  // A word of ours where a screen uses it first: it explains itself on hover and on focus.
  let { word, text = word }: { word: string; text?: string } = $props();
  const entry = $derived(meaningOf(word));
  const id = $props.id();
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<span class="term" tabindex="0" aria-describedby={id}
  >{text}<span {id} role="tooltip" class="tip"
    >{entry?.means}{#if entry}<br /><span class="quiet"
        >the trade says: {entry.trade.slice(0, 3).join(', ')}</span
      >{/if}</span
  ></span
>

<style>
  .term {
    position: relative;
    border-bottom: 1px dotted var(--quiet);
    cursor: help;
  }
  .tip {
    position: absolute;
    inset-inline-start: 0;
    top: calc(100% + 4px);
    z-index: 40;
    display: none;
    width: max-content;
    max-width: 20rem;
    padding: 6px 10px;
    border: 1px solid var(--color-base-300);
    border-radius: 6px;
    background: var(--color-base-100);
    color: var(--color-base-content);
    font: 400 12px/16px var(--font-sans, inherit);
    white-space: normal;
    text-align: start;
    box-shadow: 0 4px 16px rgb(0 0 0 / 18%);
  }
  .term:hover .tip,
  .term:focus .tip {
    display: block;
  }
</style>
