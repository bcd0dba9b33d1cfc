<script lang="ts">
  import type { Attachment } from 'svelte/attachments';
  import { formatPrefix } from '#core/addr';
  import { firstHost, nextFreeSubnet } from '#core/model';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import NetworkRow from './NetworkRow.svelte';
  import { hostsIn, neighbourhoods, rulersOf } from './rulers';
  // The networks to scale, their neighbours, what is free, and the address plan beside them.
  const session = useSession();
  const leases = $derived(session.derived?.draft.leases ?? []);
  const rulers = $derived(rulersOf(session.model, leases));
  const homes = $derived(neighbourhoods(rulers));
  // Hundreds of networks may be neighbours.
  const blocks = gradually(() => homes.flatMap((home) => home.blocks), 40);
  const laid = $derived(new Set(blocks.shown));
  let size = $state(24);
  const free = $derived(nextFreeSubnet(session.model, size));
  let filter = $state('');
  const shown = $derived(
    rulers.filter((r) =>
      `${r.iface.name} ${r.text} ${r.iface.tag ?? ''} ${r.iface.zone?.name ?? ''}`.includes(filter.trim()),
    ),
  );
  /** Rows are drawn as far as somebody scrolls; hundreds that nobody sees would have to be taken away by a filter. */
  const FEW = 60;
  let most = $state(FEW);
  const near = $derived(shown.slice(0, most));
  const drawn = gradually(() => near, 4);
  /** The foot of what is drawn comes into sight. */
  const goOn: Attachment = (foot) => {
    const sight = new IntersectionObserver(
      (entries) => {
        if (entries.some((e) => e.isIntersecting)) most += FEW;
      },
      { rootMargin: '800px' },
    );
    sight.observe(foot);
    return () => sight.disconnect();
  };
  /** Brings a network into sight, which may not be drawn yet. */
  async function reveal(name: string) {
    filter = '';
    most = Math.max(most, rulers.findIndex((r) => r.iface.name === name) + FEW);
    const row = () => document.querySelector(`[data-testid="network-${name}"]`);
    for (let frame = 0; frame < 200 && !row(); frame++)
      await new Promise((resolve) => requestAnimationFrame(resolve));
    row()?.scrollIntoView({ block: 'center' });
  }
  let planning = $state(false);
  const isPlan = $derived(planning || session.nav.plan !== undefined);
</script>

<div class="mx-auto max-w-[1500px] space-y-3 p-4" data-testid="subnets">
  <div class="flex flex-wrap items-end gap-3">
    <h1 class="h2">Subnets</h1>
    <span
      >next free <select
        class="select w-36 select-xs"
        bind:value={size}
        aria-label="size of the next free subnet"
        data-testid="free-size"
        >{#each [20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30] as n (n)}<option value={n}
            >/{n} · {hostsIn(n)} hosts</option
          >{/each}</select
      >
      <span class="mono font-semibold" data-testid="next-free">{free ? formatPrefix(free) : 'none'}</span>
      {#if free}<button
          class="btn btn-xs"
          data-testid="start-network"
          onclick={() => session.nav.make('network', {}, { own: firstHost(free) })}>start a network</button
        >{/if}
    </span>
    <label class="ms-auto"
      >filter <input
        class="field mono w-40"
        bind:value={filter}
        oninput={() => (most = FEW)}
        placeholder="10.61.20"
        data-testid="subnet-filter"
      /></label
    >
    <button
      class="btn btn-sm"
      aria-expanded={isPlan}
      data-testid="plan-button"
      onclick={() => {
        planning = !isPlan;
        session.nav.plan = undefined;
      }}>Address plan …</button
    >
  </div>
  {#if isPlan}
    {#await import('./PlanPanel.svelte')}<p class="quiet">
        Opening …
      </p>{:then { default: PlanPanel }}<PlanPanel
        onclose={() => {
          planning = false;
          session.nav.plan = undefined;
        }}
      />{/await}
  {/if}
  <section class="panel p-3" aria-label="neighbours">
    <h2 class="h2">Neighbours</h2>
    {#each homes as home (home.text)}
      <div class="mt-1 flex items-center gap-2">
        <span class="mono w-56 flex-none text-[12px] quiet">{home.text}</span>
        <div class="strip">
          {#each home.blocks.filter((b) => laid.has(b)) as b (b.ruler.iface.name + b.ruler.text)}
            <button
              class={['block', b.ruler.clashes.length > 0 && 'clashing', b.ruler.iface.uplink && 'upstream']}
              style:left="{b.from * 100}%"
              style:width="max(3px, {b.share * 100}%)"
              title={`${b.ruler.iface.name} ${b.ruler.text}`}
              aria-label={`${b.ruler.iface.name} ${b.ruler.text}`}
              onclick={() => reveal(b.ruler.iface.name)}><span>{b.ruler.iface.name}</span></button
            >
          {/each}
        </div>
      </div>
    {/each}
  </section>
  <section class="panel px-3 pt-3 pb-1" aria-label="networks">
    <div class="flex flex-wrap items-baseline gap-4">
      <h2 class="h2">Networks</h2>
      <span class="legend quiet"
        ><i class="of-pool"></i> pool <i class="of-box"></i> the box <i class="of-kept"></i> kept
        <i class="of-fixed"></i>
        fixed
        <i class="of-leased"></i> leased <i class="of-known"></i> known</span
      >
      {#if shown.length !== rulers.length}<span class="quiet">{shown.length} of {rulers.length}</span>{/if}
    </div>
    <ul>
      {#each drawn.shown as ruler (ruler.iface.name + ruler.text)}<NetworkRow {ruler} />{/each}
      {#if near.length < shown.length && drawn.shown.length === near.length}{#key most}<li
            class="py-2 quiet"
            {@attach goOn}
          >
            {shown.length - near.length} more
          </li>{/key}{/if}
      {#if !shown.length}<li class="py-2 quiet">
          No network{filter ? ' fits the filter' : ' yet'}.
          {#if !filter}<button class="link text-primary" onclick={() => session.nav.make('network')}
              >Add one</button
            >, or take over an address plan.{/if}
        </li>{/if}
    </ul>
  </section>
</div>

<style>
  .strip {
    position: relative;
    flex: 1;
    height: 24px;
    background: var(--color-base-200);
    border: 1px solid var(--color-base-300);
    overflow: hidden;
  }
  .block {
    position: absolute;
    inset-block: 2px;
    overflow: hidden;
    border: 1px solid var(--color-primary);
    background: var(--color-accent);
    color: var(--color-accent-content);
    font-size: 11px;
    line-height: 16px;
    text-align: start;
    cursor: pointer;
  }
  .block span {
    padding-inline: 3px;
  }
  .upstream {
    border-style: dashed;
    background: var(--color-base-100);
    color: var(--color-base-content);
  }
  .clashing {
    border: 2px solid var(--color-error);
  }
  .legend i {
    display: inline-block;
    margin: 0 3px 0 10px;
    vertical-align: middle;
    background: var(--color-base-content);
  }
  .legend .of-pool {
    width: 18px;
    height: 12px;
    border: 1px solid var(--color-primary);
    background: repeating-linear-gradient(135deg, var(--color-accent) 0 4px, var(--color-base-100) 4px 7px);
  }
  .legend .of-box {
    width: 3px;
    height: 14px;
  }
  .legend .of-kept {
    width: 8px;
    height: 8px;
    border-radius: 50%;
    background: var(--color-base-100);
    border: 2px solid var(--color-base-content);
  }
  .legend .of-fixed {
    width: 7px;
    height: 7px;
  }
  .legend .of-leased {
    width: 3px;
    height: 7px;
  }
  .legend .of-known {
    width: 0;
    height: 0;
    border: 5px solid transparent;
    border-bottom-color: var(--color-base-content);
    background: none;
  }
</style>
