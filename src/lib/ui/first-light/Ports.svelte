<script lang="ts">
  import { plugIn } from '#core/edits';
  import { useSession } from '../../session/index';
  import Hands from '../live/Hands.svelte';
  import Statements from './Statements.svelte';
  // Which port the provider's line is in, and which the administrator's PC.
  let {
    line = $bindable(),
    desk = $bindable(),
    ondone,
  }: { line: string; desk: string; ondone: () => void } = $props();
  const session = useSession();
  const site = $derived(session.site);
  const ports = $derived([...site.ports.keys()]);
  const plugs = $derived(plugIn(site, line, desk));
  const isPlugged = $derived(
    plugs.changes.length === 0 && site.circuits.some((c) => c.name === 'line') && line !== desk,
  );
  /** On a live box: the device behind a port, whose lamp is real. */
  const device = (port: string) => session.live?.sight?.ports.find((p) => p.name === port);
  const asleep = $derived(session.isLive && ports.some((p) => device(p) && !device(p)!.up));
  const whatIsIn = (port: string) => [
    ...site.circuits
      .filter((c) => c.plug?.to === 'port' && c.plug.port === port)
      .map((c) => `the provider’s ${c.name}`),
    ...site.stations
      .filter((s) => s.plug?.to === 'port' && s.plug.port === port)
      .map((s) => `your ${s.name}`),
  ];
</script>

<p>Plug the provider’s line and your PC in, one after the other, and watch which lamp comes up.</p>
<ul class="flex flex-wrap gap-2" aria-label="ports">
  {#each ports as port (port)}
    <li class="panel w-32 p-2">
      {#if session.isLive}
        {@const lit = device(port)?.carrier}
        <b class="mono" data-testid="lamp-{port}">{lit ? '●' : '○'} {port} {lit ? 'lit' : 'dark'}</b>
        <span class="block quiet">{device(port)?.addresses.join(' ') || whatIsIn(port).join(', ')}</span>
      {:else}
        <b class="mono">{whatIsIn(port).length ? '■' : '□'} {port}</b>
        <span class="block quiet">{whatIsIn(port).join(', ') || 'no light'}</span>
      {/if}
    </li>
  {/each}
</ul>
{#if asleep}
  <p>
    Ports that are off show no light.
    <button
      class="btn btn-xs"
      data-testid="wake"
      disabled={!!session.live?.ordering}
      onclick={() => void session.live?.order({ do: 'wake' })}>Switch the box’s ports on</button
    >
    <span class="quiet">They get no address by it, and nothing passes.</span>
  </p>
{/if}
<Hands />
<div class="flex gap-4">
  <label
    >provider’s line (WAN) into <select class="field" bind:value={line} data-testid="line-port"
      >{#each ports as p (p)}<option>{p}</option>{/each}</select
    ></label
  >
  <label
    >your PC (LAN) into <select class="field" bind:value={desk} data-testid="desk-port"
      >{#each ports as p (p)}<option>{p}</option>{/each}</select
    ></label
  >
</div>
{#if line === desk}<p class="text-error" role="alert">One port takes one cable: choose two.</p>{/if}
{#if isPlugged}
  <p>{session.isLive ? 'Both are written down.' : 'Both lamps are up.'}</p>
  <button class="btn btn-primary btn-sm" data-testid="next" onclick={ondone}
    >On to the provider’s sheet</button
  >
{:else}
  <Statements list={plugs.statements} />
  <button
    class="btn btn-primary btn-sm"
    disabled={line === desk}
    data-testid="plug"
    onclick={() => session.apply(plugs.changes, 'plug in')}>Plug in</button
  >
{/if}
