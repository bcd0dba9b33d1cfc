<script lang="ts">
  import type { Zone } from '#core/site';
  import { lookOf } from '../looks';
  import { ROW } from './banks';
  let {
    zone,
    end,
    main = false,
    height = ROW,
    chosen,
    title = `put ${zone.name} in the middle`,
    onpick,
  }: {
    zone: Zone;
    end: boolean;
    main?: boolean;
    height?: number;
    /** For a bank that can be chosen. */
    chosen?: boolean;
    title?: string;
    onpick?: () => void;
  } = $props();
  const look = $derived(lookOf(zone));
  const word = $derived(zone.upstream ? 'upstream' : zone.dmz ? 'dmz' : zone.management ? 'management' : '');
</script>

<div class="flex items-center" style:height={`${height}px`}>
  <button
    class={['bank', end && 'end', (main || chosen) && 'main']}
    onclick={onpick}
    disabled={!onpick}
    aria-pressed={chosen}
    data-testid={chosen === undefined ? undefined : `${end ? 'to' : 'from'}-${zone.name}`}
    title={onpick ? title : undefined}
  >
    <span
      class={['texture edge', `texture-${look.texture}`]}
      style:--tint={`var(--tint-${look.tint})`}
      aria-hidden="true"
    ></span>
    <span class="font-semibold">{zone.name}</span>
    {#if word}<span class="quiet">{word}</span>{/if}
  </button>
</div>

<style>
  .bank {
    display: flex;
    width: 100%;
    align-items: center;
    gap: 8px;
    min-height: 32px;
    overflow: hidden;
    border: 1px solid var(--color-base-300);
    border-radius: 4px;
    background: var(--color-base-100);
    padding-inline-end: 8px;
    text-align: start;
  }
  .bank.end {
    flex-direction: row-reverse;
    padding-inline: 8px 0;
    text-align: end;
  }
  .bank.main {
    min-height: min(44px, 100%);
    border-width: 2px;
    border-color: var(--color-base-content);
  }
  .edge {
    align-self: stretch;
    width: 8px;
    flex: none;
  }
  .quiet {
    font-size: 0.75rem;
  }
</style>
