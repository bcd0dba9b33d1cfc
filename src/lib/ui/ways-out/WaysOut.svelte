<script lang="ts">
  import { tick } from 'svelte';
  import { moveUplink, uplinksInOrder } from '#core/edits';
  import { useSession } from '../../session/index';
  import { leavingsOf } from '#core/model';
  import type { DrillScript } from '#core/proof/drills';
  import { gradually } from '../controls/gradually.svelte';
  import Ledger from '../slip/Ledger.svelte';
  import Drill from './Drill.svelte';
  import Leaving from './Leaving.svelte';
  import Pipe from './Pipe.svelte';
  import WhatIf from './WhatIf.svelte';
  import { drillOf } from './plan';
  // The ways to the internet: uplinks in their order, what happens when one fails, which public addresses there are.
  const session = useSession();
  const uplinks = $derived(uplinksInOrder(session.site));
  const tables = $derived([...new Set(uplinks.map((i) => i.table))]);
  const row = (table: string) => uplinks.filter((i) => i.table === table);
  const drawn = gradually(() => uplinks);
  /** The parts beneath the uplinks. */
  const PARTS = ['what-if', 'ledger', 'leaving'] as const;
  const parts = gradually<(typeof PARTS)[number]>(() => PARTS, 0);
  const ledgers = gradually(() => (parts.shown.includes('ledger') ? uplinks : []));
  const leavings = $derived(leavingsOf(session.model));
  function move(name: string, to: number) {
    const changes = moveUplink(session.site, name, to);
    if (changes.length && session.apply(changes, `order of uplinks: ${name}`))
      setTimeout(() => document.querySelector<HTMLElement>(`[data-testid="pipe-name-${name}"]`)?.focus());
  }
  const first = $derived(session.wiring.circuits.find((c) => !c.down)?.name);
  let drill = $state<Drill>();
  /** The drill that is set up; before anybody sets one up, one that is worth trying. */
  const plan = $derived.by((): DrillScript => {
    if (session.nav.drill) return session.nav.drill;
    const from = session.wiring.stations.find((s) => !s.off)?.name ?? 'box';
    const bare = { from, to: '', seconds: 90, acts: [] };
    return first === undefined ? bare : drillOf({ cut: [], dead: [first] }, bare);
  });
  function onkeydown(e: KeyboardEvent) {
    const at = e.target as HTMLElement;
    if (e.key !== 'd' || e.ctrlKey || e.altKey || e.metaKey || at.closest('input, select, textarea')) return;
    e.preventDefault();
    void drill?.run();
  }
</script>

<svelte:window {onkeydown} />
<div class="mx-auto max-w-[1500px] space-y-3 p-4" data-testid="ways-out">
  <div class="flex items-baseline gap-3">
    <h1 class="h2">Ways out</h1>
    <span class="quiet"
      >uplinks in the order in which they are used; the first that lives carries the default route</span
    >
    <button class="btn ms-auto btn-xs" data-testid="add-uplink" onclick={() => session.nav.make('uplink')}
      >+ uplink</button
    >
  </div>
  {#each tables as table (table)}
    {#if tables.length > 1}<h2 class="quiet">table {table}</h2>{/if}
    <ol class="space-y-2" aria-label={`uplinks of table ${table}`}>
      {#each row(table).filter((u) => drawn.shown.includes(u)) as iface, i (iface.name)}
        <Pipe
          {iface}
          place={i}
          last={i === row(table).length - 1}
          onmove={(to) => move(iface.name, to)}
          ontake={(name) => move(name, i)}
        />
      {/each}
    </ol>
  {:else}
    <p class="panel p-4 quiet">
      No uplink yet. <button class="link text-primary" onclick={() => session.nav.make('uplink')}
        >Add one</button
      >: a port, an address as the provider says, and how it is watched.
    </p>
  {/each}
  {#if uplinks.length}
    <Drill bind:this={drill} {plan} onplan={(next) => (session.nav.drill = next)} />
    {#if parts.shown.includes('what-if')}<WhatIf
        ondrill={(fault) => {
          session.nav.drill = drillOf(fault, plan);
          void tick().then(() => drill?.run());
          document.querySelector('[data-testid="drill"]')?.scrollIntoView();
        }}
      />{/if}
    {#if parts.shown.includes('ledger')}<section
        class="panel p-3"
        aria-label="public addresses"
        data-testid="block-ledger"
      >
        <h2 class="h2">Public addresses</h2>
        <div class="grid gap-x-6 min-[1000px]:grid-cols-2">
          {#each ledgers.shown as iface (iface.name)}<div class="when-near px-1" style:--high="300px">
              <Ledger {iface} titled={iface.name} />
            </div>{/each}
        </div>
      </section>{/if}
  {/if}
  {#if parts.shown.includes('leaving')}
    <Leaving kind="leave" taken={leavings.leaves} />
    <Leaving kind="send" taken={leavings.sends} />
  {/if}
</div>
