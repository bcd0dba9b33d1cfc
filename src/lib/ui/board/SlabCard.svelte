<script lang="ts">
  import { findingText } from '#words';
  import Weight from '../primitives/Weight.svelte';
  import type { Density, Slab } from './model';
  let {
    slab,
    density,
    grouped = false,
    room = 28,
    selected,
    focusable,
    target = false,
    onfocus,
    onopen,
    ondrag,
    ondropat,
  }: {
    slab: Slab;
    density: Density;
    /** Whether its row holds several zones, so that it says its own. */
    grouped?: boolean;
    /** Characters of facts that fit. */
    room?: number;
    selected: boolean;
    focusable: boolean;
    /** Something is carried onto it. */
    target?: boolean;
    onfocus: () => void;
    onopen: (event: MouseEvent) => void;
    ondrag: (on: boolean) => void;
    /** Offered what is carried; returns whether it takes it. */
    ondropat?: (event: DragEvent, drop: boolean) => boolean;
  } = $props();
  const id = $props.id();
  const weights = ['error', 'warning', 'advice'] as const;
  const worst = $derived(
    weights.map((w) => slab.findings.find((f) => f.severity === w)).find((f) => f !== undefined),
  );
  /** Facts that fit, and how many do not. */
  const facts = $derived.by(() => {
    let left = room;
    const shown: string[] = [];
    for (const fact of slab.facts) {
      left -= fact.length + 3;
      if (left < 0 && shown.length) break;
      shown.push(fact);
    }
    return { shown, rest: slab.facts.slice(shown.length) };
  });
  const spoken = $derived(
    [
      `Interface ${slab.name} in ${slab.zone || 'no zone'}`,
      slab.tag === '—' ? 'untagged' : slab.tag === 'loopback' ? 'loopback' : `tag ${slab.tag}`,
      slab.how === 'learned' || slab.how === 'supposed' ? `${slab.address}, ${slab.how}` : slab.address,
      slab.also ? `also ${slab.also}` : '',
      ...slab.six.map((x) => x.whole),
      ...slab.facts,
      slab.draft,
      slab.oldAddress ? `was ${slab.oldAddress}` : '',
      slab.off ? 'off, nothing passes' : '',
      slab.dark ? 'no cable' : '',
      ...slab.byHand,
      worst ? findingText(worst) : '',
    ]
      .filter(Boolean)
      .join(', '),
  );
</script>

{#snippet words()}
  {#if slab.draft}<span class="word">{slab.draft}</span>{/if}
  {#if slab.off}<span class="word loud">off</span>{/if}
  {#if slab.dark}<span class="word">no cable</span>{/if}
  {#if slab.byHand.length}<span class="word loud" title={slab.byHand.join('; ')}>by hand</span>{/if}
  {#if slab.held}<span class="word">as last readable</span>{/if}
{/snippet}
{#snippet primary()}
  {#if slab.how === 'learned'}⟨{slab.address}⟩
  {:else if slab.how === 'supposed'}<span class="supposed">~⟨{slab.address}⟩</span>
  {:else}<span class={slab.oldAddress ? 'altered' : ''}>{slab.address || slab.six[0]?.text}</span>{/if}
{/snippet}

<button
  class={['slab', density, slab.draft, slab.off && 'off', selected && 'selected', target && 'target']}
  data-at={slab.subject}
  data-testid={`slab-${slab.name}`}
  tabindex={focusable ? 0 : -1}
  aria-describedby={id}
  aria-pressed={selected}
  draggable={slab.draft !== 'removed'}
  {onfocus}
  onclick={onopen}
  ondragstart={(e) => {
    e.dataTransfer?.setData('text/plain', slab.subject);
    ondrag(true);
  }}
  ondragend={() => ondrag(false)}
  ondragover={(e) => ondropat?.(e, false)}
  ondrop={(e) => ondropat?.(e, true)}
>
  <span class={['edge texture', `texture-${slab.texture}`]} style:--tint={`var(--tint-${slab.tint})`}></span>
  {#if density === 'line'}
    <span class="line">
      <span class="mono quiet tag">{slab.tag}</span>
      {#if grouped}<span class="quiet">{slab.zone}</span>{/if}
      <b>{slab.name}</b>
      {@render words()}
      <span class="mono">{@render primary()}</span>
      {#if slab.alsoCount}<span class="quiet">+{slab.alsoCount}</span>{/if}
      <span class="rest quiet" title={slab.facts.join(' · ')}
        >{slab.facts
          .filter((f) => !f.startsWith('gw'))
          .map((f) => f.replace(/^lends \d+$/, 'lends'))
          .join(' ')}</span
      >
      {#if worst}<span class="ms-auto"><Weight severity={worst.severity} /></span>{/if}
    </span>
  {:else}
    <span class="line">
      <b class="name">{slab.name}</b>
      {@render words()}
      {#if slab.how === 'learned'}<span class="by">{slab.learnedBy}</span>{/if}
      <span class="ms-auto mono quiet">{slab.tag}</span>
      {#if worst}<Weight severity={worst.severity} />{/if}
    </span>
    {#if slab.draft !== 'removed'}
      {#if slab.address || density === 'short'}
        <span class="line mono address">
          {@render primary()}
          {#if slab.how === 'supposed'}<span class="word">supposed</span>
          {/if}
          {#if density === 'short' && slab.alsoCount}<span class="quiet">+{slab.alsoCount}</span>{/if}
        </span>
      {/if}
      {#if density === 'full'}
        {#if slab.oldAddress}<span class="line mono quiet"><s>{slab.oldAddress}</s></span>{/if}
        {#if slab.also}<span class="line mono quiet facts" title={slab.also}>also {slab.also}</span>{/if}
        {#each slab.six as six (six.text)}
          <span class="line mono six" title={six.whole}
            >{six.how ? `⟨${six.text}⟩` : six.text}{#if six.how}<span class="by">{six.how}</span>{/if}</span
          >
        {/each}
        {#if facts.shown.length}<span class="line quiet facts" title={slab.facts.join(' · ')}
            >{facts.shown.join(' · ')}{facts.rest.length ? ` +${facts.rest.length}` : ''}</span
          >{/if}
        {#each slab.was.slice(0, 2) as was (was)}<span class="line quiet was"><s>{was}</s></span>{/each}
        {#if slab.was.length > 2}<span class="line quiet">and {slab.was.length - 2} more changed</span>{/if}
        {#if slab.off}<span class="line loud">off: nothing passes</span>{/if}
        {#if worst}
          <span class={['told', `ground-${worst.severity}`]} title={findingText(worst)}
            >{findingText(worst)}</span
          >
        {/if}
      {/if}
    {/if}
  {/if}
</button>
<!-- What is drawn is short; this says it whole to who hears it. -->
<span {id} hidden>{spoken}</span>

<style>
  .slab {
    position: relative;
    display: block;
    width: 100%;
    text-align: left;
    background-color: var(--color-base-100);
    border: 1px solid var(--color-base-300);
    border-radius: 4px;
    padding: 6px 10px 6px 18px;
    cursor: pointer;
    min-width: 0;
    /* What is out of sight is not laid out or painted: a trunk may hold hundreds. */
    content-visibility: auto;
    contain-intrinsic-height: auto 68px;
  }
  .slab.line {
    padding: 1px 6px 1px 14px;
    contain-intrinsic-height: auto 20px;
  }
  .slab.line .edge {
    width: 6px;
  }
  .slab.line .tag {
    min-width: 2.2em;
    text-align: right;
  }
  .slab.line .line {
    overflow: hidden;
    line-height: 18px;
    font-size: 12.5px;
  }
  .rest {
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: 12px;
  }
  .short {
    padding-top: 3px;
    padding-bottom: 3px;
  }
  .edge {
    position: absolute;
    inset: 0 auto 0 0;
    width: 8px;
    border-radius: 3px 0 0 3px;
  }
  span.line {
    display: flex;
    align-items: baseline;
    gap: 6px;
    min-width: 0;
    white-space: nowrap;
  }
  .name {
    font-size: 14px;
    line-height: 18px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .word {
    color: var(--color-warning);
    font-size: 12px;
  }
  .loud {
    color: var(--color-error);
    font-weight: 650;
  }
  .by {
    font: 400 12px/16px var(--font-sans);
    color: var(--quiet);
  }
  .address,
  .six {
    font-size: 13px;
    line-height: 18px;
  }
  .six {
    font-size: 12px;
  }
  .slab span.facts,
  .slab span.was {
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
  .removed b {
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
    z-index: 1;
  }
  .target {
    background-color: var(--color-accent);
  }
  .slab:focus-visible {
    outline-offset: 5px;
    z-index: 1;
  }
  .slab.line:focus-visible {
    outline-offset: -2px;
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
