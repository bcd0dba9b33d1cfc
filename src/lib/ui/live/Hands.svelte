<script lang="ts">
  import type { Hand } from '#core/box';
  import { useSession } from '../../session/index';
  // The practice field has nobody who could pull a cable: here it is done for whoever practises.
  const session = useSession();
  const live = $derived(session.live);
  let address = $state('10.61.99.10/26');
  let gateway = $state('10.61.99.1');
  let port = $state<'p4' | 'p8'>('p8');
  let why = $state('');
  let busy = $state(false);
  const carried = (name: string) => !!live?.sight?.ports.find((p) => p.name === name)?.carrier;
  async function hand(h: Hand) {
    busy = true;
    why = (await live?.hand(h)) ?? '';
    busy = false;
  }
  const CABLES = [
    ['p1', 'the first line'],
    ['p2', 'the second line'],
    ['p3', 'the desk'],
  ] as const;
</script>

{#if live?.isPractice}
  <section class="panel p-3" aria-label="practice field" data-testid="hands">
    <h2 class="mb-1 h2">In the practice field</h2>
    <p class="mb-2 quiet">
      What takes hands at a real box. The PC that the server calls from sits here, too.
    </p>
    <div class="mb-2 flex flex-wrap gap-2">
      {#each CABLES as [name, what] (name)}
        <button
          class="btn btn-xs"
          disabled={busy}
          data-testid="hand-{name}"
          onclick={() => hand({ do: carried(name) ? 'unplug' : 'plug', port: name })}
          >{carried(name) ? 'Pull' : 'Plug in'} {name} ({what})</button
        >
      {/each}
      <button
        class="btn btn-xs"
        disabled={busy}
        data-testid="hand-power"
        onclick={() => hand({ do: 'power' })}>Pull the box’s plug, and put it back</button
      >
      <button
        class="btn btn-xs"
        disabled={busy}
        data-testid="hand-anew"
        title="The box as it was at first: nobody has told it anything; the cables are in, and the PC sits where it sat"
        onclick={() => hand({ do: 'anew' })}>Lay it anew</button
      >
    </div>
    <form
      class="flex flex-wrap items-end gap-2"
      onsubmit={(e) => {
        e.preventDefault();
        void hand({ do: 'sit', port, address: address.trim(), gateway: gateway.trim() || undefined });
      }}
    >
      <label
        >the PC at <select class="select w-auto select-xs" bind:value={port} data-testid="sit-port"
          ><option>p8</option><option>p4</option></select
        ></label
      >
      <label class="w-40"
        >address <input class="field mono" bind:value={address} data-testid="sit-address" /></label
      >
      <label class="w-32"
        >gateway <input class="field mono" bind:value={gateway} data-testid="sit-gateway" /></label
      >
      <button class="btn btn-xs" disabled={busy} data-testid="sit">Sit there</button>
    </form>
    {#if live.sheet}
      <details class="mt-2">
        <summary>What the provider of the first line (p1) sent</summary>
        <pre class="mono text-[12.5px]" data-testid="line-sheet">{live.sheet}</pre>
      </details>
    {/if}
    {#if why}<p class="mt-1 text-error" role="alert">{why}</p>{/if}
  </section>
{/if}
