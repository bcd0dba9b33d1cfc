<script lang="ts">
  import { useSession } from '../../session/index';
  import { NO_ZONE } from './model';
  import type { Row } from './model';
  let {
    row,
    focusable,
    target,
    onfocus,
    ondrag,
    onfold,
    ondropat,
    style,
  }: {
    row: Row;
    focusable: boolean;
    target: boolean;
    onfocus: () => void;
    ondrag: (on: boolean) => void;
    onfold: () => void;
    ondropat: (event: DragEvent, drop: boolean) => void;
    style: string;
  } = $props();
  const session = useSession();
  const filtered = $derived(row.shown < row.total);
</script>

<!-- svelte-ignore a11y_interactive_supports_focus -->
<div
  class={['zone-head', target && 'target']}
  role="rowheader"
  {style}
  ondragover={(e) => ondropat(e, false)}
  ondrop={(e) => ondropat(e, true)}
>
  <span
    class={['texture', `texture-${row.texture}`]}
    style:--tint={`var(--tint-${row.tint})`}
    aria-hidden="true"
  ></span>
  <div class="min-w-0 flex-1">
    <button
      class="text-start"
      data-at={`zone/${row.name}`}
      data-testid={`zone-${row.name || 'none'}`}
      tabindex={focusable ? 0 : -1}
      draggable={!!row.zone}
      title={row.zone ? 'Enter opens it, Alt and arrows move it in the order of trust' : row.group.join(', ')}
      ondragstart={() => ondrag(true)}
      ondragend={() => ondrag(false)}
      {onfocus}
      onclick={() => row.zone && session.nav.select(`zone/${row.name}`)}
    >
      <b class="name">{row.name === NO_ZONE ? 'no zone yet' : row.name}</b><br />
      <span class="quiet">{row.about}</span>
    </button>
    {#if row.zone}
      <button
        class="add"
        tabindex={-1}
        title={`What do you want in ${row.name}? (a)`}
        aria-label={`add in ${row.name}`}
        data-testid={`add-in-${row.name}`}
        onclick={() => session.nav.want(`zone/${row.name}`)}>+</button
      >
    {/if}
    {#if row.logins}
      <p class="logins" title="Logins that the box answers to this zone; * only some sources may">
        log in: {row.logins}
      </p>
    {/if}
    {#if filtered}<p class="quiet">{row.shown} of {row.total}</p>{/if}
    {#if row.total > 4 || row.density === 'folded'}
      <button
        class="btn mt-0.5 h-5 min-h-0 px-1 btn-ghost btn-xs"
        tabindex={-1}
        data-testid={`fold-${row.name}`}
        onclick={onfold}
        title="- denser, + looser">{row.density === 'folded' ? '▸ unfold' : '▾ fold'} {row.total}</button
      >
    {/if}
  </div>
</div>

<style>
  .zone-head {
    position: sticky;
    left: 0;
    z-index: 2;
    width: 128px;
    display: flex;
    gap: 10px;
    padding: 8px 6px 8px 0;
    background: var(--color-base-100);
    border-bottom: 1px solid var(--color-base-300);
    border-right: 1px solid var(--color-base-300);
    box-sizing: border-box;
  }
  .texture {
    width: 8px;
    align-self: stretch;
    margin: -8px 0;
    flex: none;
  }
  .name {
    font-size: 14px;
    line-height: 18px;
    overflow-wrap: anywhere;
  }
  .add {
    position: absolute;
    right: 2px;
    top: 6px;
    width: 20px;
    height: 20px;
    border-radius: 4px;
    color: var(--quiet);
    cursor: pointer;
  }
  .add:hover {
    background: var(--color-base-200);
  }
  .logins {
    font-size: 12px;
    line-height: 16px;
  }
  .target {
    box-shadow: inset 0 0 0 2px var(--color-primary);
    background: var(--color-accent);
  }
</style>
