<script lang="ts">
  import { findingText } from '#words';
  import Weight from '../primitives/Weight.svelte';
  import type { Row, Slab } from './model';
  let {
    slab,
    row,
    selected,
    focusable,
    onfocus,
    onopen,
    ondrag,
  }: {
    slab: Slab;
    row: Row;
    selected: boolean;
    focusable: boolean;
    onfocus: () => void;
    onopen: () => void;
    ondrag: (on: boolean) => void;
  } = $props();
  const weights = ['error', 'warning', 'advice'] as const;
  const worst = $derived(
    weights.map((w) => slab.findings.find((f) => f.severity === w)).find((f) => f !== undefined),
  );
  const spoken = $derived(
    [
      `Interface ${slab.name} in ${row.name || 'no zone'}`,
      slab.tag === '—' ? 'untagged' : `tag ${slab.tag}`,
      slab.address,
      slab.draft,
      slab.off ? 'off' : '',
      slab.dark ? 'no cable' : '',
      worst ? findingText(worst) : '',
    ]
      .filter(Boolean)
      .join(', '),
  );
</script>

<button
  class={['slab', slab.draft, slab.off && 'off', selected && 'selected']}
  data-at={slab.subject}
  data-testid={`slab-${slab.name}`}
  tabindex={focusable ? 0 : -1}
  aria-label={spoken}
  aria-pressed={selected}
  draggable={slab.draft !== 'removed'}
  {onfocus}
  onclick={onopen}
  ondragstart={(e) => {
    e.dataTransfer?.setData('text/plain', slab.subject);
    ondrag(true);
  }}
  ondragend={() => ondrag(false)}
>
  <span class={['edge texture', `texture-${row.texture}`]} style:--tint={`var(--tint-${row.tint})`}></span>
  <span class="line">
    <b class="name">{slab.name}</b>
    {#if slab.draft}<span class="word">{slab.draft}</span>{/if}
    {#if slab.off}<span class="word">off</span>{/if}
    {#if slab.dark}<span class="word">no cable</span>{/if}
    {#if slab.held}<span class="word">as last readable</span>{/if}
    <span class="ms-auto mono quiet">{slab.tag}</span>
    {#if worst}<Weight severity={worst.severity} />{/if}
  </span>
  {#if slab.draft !== 'removed'}
    <span class="line mono address">
      {#if slab.how === 'learned'}⟨{slab.address}⟩
      {:else if slab.how === 'supposed'}<span class="supposed">~⟨{slab.address}⟩</span>
        <span class="word">supposed</span>
      {:else}<span class={slab.oldAddress ? 'altered' : ''}>{slab.address}</span>{/if}
    </span>
    {#if slab.oldAddress}<span class="line mono quiet"><s>{slab.oldAddress}</s></span>{/if}
    {#if slab.also}<span class="line mono quiet">also {slab.also}</span>{/if}
    {#if slab.facts.length}<span class="line quiet facts">{slab.facts.join(' · ')}</span>{/if}
    {#if worst}
      <span class={['told', `ground-${worst.severity}`]} title={findingText(worst)}>{findingText(worst)}</span
      >
    {/if}
  {/if}
</button>

<style>
  .slab {
    position: relative;
    display: block;
    width: 100%;
    text-align: left;
    background: var(--color-base-100);
    border: 1px solid var(--color-base-300);
    border-radius: 4px;
    padding: 6px 10px 6px 18px;
    cursor: pointer;
    min-width: 0;
  }
  .edge {
    position: absolute;
    inset: 0 auto 0 0;
    width: 8px;
    border-radius: 3px 0 0 3px;
  }
  .line {
    display: flex;
    align-items: baseline;
    gap: 6px;
    min-width: 0;
    white-space: nowrap;
  }
  .name {
    font-size: 14px;
    line-height: 18px;
  }
  .word {
    color: var(--color-warning);
    font-size: 12px;
  }
  .address {
    font-size: 13px;
    line-height: 18px;
  }
  .facts {
    overflow: hidden;
    text-overflow: ellipsis;
    display: block;
  }
  .altered {
    text-decoration: underline dotted 2px;
    text-underline-offset: 3px;
  }
  .supposed {
    border-bottom: 1px dashed currentColor;
  }
  .new,
  .removed {
    border-style: dashed;
    border-color: var(--quiet);
  }
  .removed .name {
    text-decoration: line-through;
  }
  .off {
    background-image: repeating-linear-gradient(
      135deg,
      color-mix(in srgb, var(--color-base-content) 12%, transparent) 0 2px,
      transparent 2px 8px
    );
  }
  .selected {
    box-shadow:
      0 0 0 2px var(--color-base-100),
      0 0 0 4px var(--color-base-content);
  }
  .slab:focus-visible {
    outline-offset: 5px;
    z-index: 1;
  }
  .told {
    display: block;
    margin: 4px -10px -6px -10px;
    padding: 3px 10px;
    font-size: 12px;
    line-height: 16px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    border-radius: 0 0 3px 0;
  }
</style>
