<script lang="ts">
  import { useSession } from '../../session/index';
  import type { Column } from './model';
  let { column }: { column: Column } = $props();
  const session = useSession();
  // The lamp is a shape: full with light, hollow without, crossed when off.
  const lamp = $derived({ up: '■', down: '□', off: '⊠', none: '□' }[column.light]);
  const word = $derived({ up: 'light', down: 'no light', off: 'off', none: 'no cable' }[column.light]);
  const cut = $derived(session.drill.cut.includes(column.port));
  function drill() {
    const rest = session.drill.cut.filter((p) => p !== column.port);
    session.setDrill({ cut: cut ? rest : [...rest, column.port], dead: session.drill.dead });
  }
</script>

<div class={['port', column.sliver && 'sliver']} role="columnheader">
  {#if column.sliver}
    <span class="mono" title={`${column.port}: ${word}, ${column.farEnd}`}>
      <span aria-hidden="true">{lamp}</span><br />{column.port.replace(/^p(?=\d)/, '')}
      <span class="sr-only">{column.port}, {word}, {column.farEnd}</span>
    </span>
  {:else}
    <div class="flex items-baseline gap-2">
      <span aria-hidden="true">{lamp}</span><span class="sr-only">{word}</span>
      <b class="name">{column.port}</b>
      <span class="quiet">{column.speed}</span>
      {#if column.tags.length > 1}<span class="quiet">{column.tags.length} tags</span>{/if}
      <button
        class="btn ms-auto h-5 min-h-0 px-1.5 btn-ghost btn-xs"
        title={cut ? 'Put the cable back (drill)' : 'Pull this cable on the bench (drill)'}
        onclick={drill}>{cut ? 'restore' : 'cut'}</button
      >
    </div>
    <div class="truncate" title={column.label}>{column.label || '\u00a0'}</div>
    <div class="truncate quiet" title={column.farEnd}>
      <span aria-hidden="true">{column.light === 'up' ? '—' : '–×–'}</span>
      {cut ? 'cut (drill)' : column.farEnd}
    </div>
  {/if}
</div>

<style>
  .port {
    position: sticky;
    top: 0;
    z-index: 3;
    height: 72px;
    box-sizing: border-box;
    padding: 8px 10px;
    background: var(--color-base-100);
    border-bottom: 2px solid var(--color-base-300);
    border-right: 1px solid var(--color-base-300);
    min-width: 0;
    line-height: 18px;
  }
  .sliver {
    padding: 8px 2px;
    text-align: center;
    color: var(--quiet);
  }
  .name {
    font-size: 14px;
  }
</style>
