<script lang="ts">
  import { formatIp, formatPrefix, parseIp } from '#core/addr';
  import { changeClauses } from '#core/edits';
  import { portionOf } from '#core/semantics';
  import { circuitsOf } from '#core/site';
  import type { Interface } from '#core/site';
  import { STAGE_NAMES, leftText, spanText, stageText } from '#words';
  import { useSession } from '../../session/index';
  import Rung from '../primitives/Rung.svelte';
  import LiveRungs from '../live/LiveRungs.svelte';
  import { firstFail, ladderSentence, standingOf } from '../ladder/ladders';
  // One uplink as a pipe: from its port over its circuit to the far internet, with what was learned and what watches it.
  let {
    iface,
    place,
    last,
    onmove,
    ontake,
  }: {
    iface: Interface;
    place: number;
    last: boolean;
    onmove: (to: number) => void;
    /** Another uplink was carried here. */
    ontake: (name: string) => void;
  } = $props();
  const session = useSession();
  const proof = $derived(session.derived?.draft);
  const ladders = $derived(proof?.uplinks.filter((u) => u.interface === iface.name) ?? []);
  const learned = $derived(proof?.learned.filter((l) => l.interface === iface.name) ?? []);
  const circuits = $derived(circuitsOf(session.wiring, iface));
  const circuit = $derived(circuits[0]);
  const live = $derived(session.live?.uplinks.filter((l) => l.interface === iface.name) ?? []);
  const { watch } = $derived(iface);
  const portion = $derived(portionOf(session.site, iface));
  const isCut = $derived(session.drill.cut.some((c) => iface.ports.includes(c) || c === circuit?.name));
  const isDead = $derived(!!circuit && session.drill.dead.includes(circuit.name));
  let watched = $state('');
  let why = $state('');
  function addWatch() {
    const words = watched.trim().split(/[\s,]+/);
    const wrong = words.find((word) => parseIp(word) === undefined);
    why = wrong === undefined ? '' : `“${wrong}” is no address; write one such as 192.0.2.1`;
    if (why) return;
    const text = `watch ${words.join(' ')}`;
    const changes = changeClauses(session.site, iface.statement, [{ do: 'add', text }]);
    if (session.apply(changes, `${iface.name}: ${text}`)) watched = '';
  }
</script>

<li
  class="when-near panel p-2"
  style:--high="150px"
  data-testid={`pipe-${iface.name}`}
  draggable="true"
  ondragstart={(e) => e.dataTransfer?.setData('text/x-uplink', iface.name)}
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => {
    const name = e.dataTransfer?.getData('text/x-uplink');
    if (!name) return;
    e.preventDefault();
    ontake(name);
  }}
>
  <div class="flex items-baseline gap-2">
    <span class="w-5 text-center font-semibold" title="place in the order">{place + 1}</span>
    <button
      class="cursor-pointer text-[15px] font-semibold hover:underline"
      data-testid={`pipe-name-${iface.name}`}
      onclick={() => session.nav.select(iface.statement.subject)}
      onkeydown={(e) => {
        if (!e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return;
        e.preventDefault();
        onmove(place + (e.key === 'ArrowUp' ? -1 : 1));
      }}>{iface.name}</button
    >
    <span class="quiet">{ladders[0] ? standingOf(ladders[0]) : iface.off ? 'off' : ''}</span>
    <span class="mono text-[12px] quiet"
      >priority {iface.priority}{portion ? `, share ${portion.weight}` : ''}{iface.onDemand
        ? ', on-demand'
        : ''}</span
    >
    {#if portion}<span class="quiet" data-testid={`share-${iface.name}`}
        >takes {portion.weight} of {portion.of} sources</span
      >{/if}
    {#if iface.table !== 'main'}<span class="quiet">table {iface.table}</span>{/if}
    <span class="ms-auto flex gap-1">
      <button
        class="btn h-6 min-h-0 px-1.5 btn-xs"
        aria-pressed={isCut}
        data-testid={`cut-${iface.name}`}
        onclick={() => iface.ports[0] && session.toggleCut(iface.ports[0])}
        >{isCut ? 'restore' : 'cut'}</button
      >
      {#if circuit}<button
          class="btn h-6 min-h-0 px-1.5 btn-xs"
          aria-pressed={isDead}
          data-testid={`deaden-${iface.name}`}
          onclick={() => session.toggleDead(circuit.name)}>{isDead ? 'restore' : 'deaden'}</button
        >{/if}
      <button
        class="px-1"
        disabled={place === 0}
        aria-label={`${iface.name} earlier`}
        data-testid={`earlier-${iface.name}`}
        onclick={() => onmove(place - 1)}>↑</button
      ><button
        class="px-1"
        disabled={last}
        aria-label={`${iface.name} later`}
        data-testid={`later-${iface.name}`}
        onclick={() => onmove(place + 1)}>↓</button
      >
    </span>
  </div>
  {#each ladders as u (u.family)}
    {@const fail = firstFail(u.stages)}
    <div class={['pipe', isCut && 'broken']}>
      <span class="end mono"
        >{iface.ports.join(' ') || '–'}{iface.tag === undefined ? '' : ` tag ${iface.tag}`}</span
      >
      {#each u.stages as s, i (s.stage)}
        {#if i === 2}<span class="end" title="the circuit"
            >{circuit ? (circuit.supposed ? '~' : '') + circuit.name : 'nothing'}</span
          >{/if}
        <Rung
          result={s.result}
          evidence={s.supposed || u.supposed ? 'supposed' : 'bench'}
          label={STAGE_NAMES[s.stage]}
          title={stageText(s)}
        />
      {/each}
      <span class="end">internet{u.family === 'ipv6' ? ', IPv6' : ''}</span>
    </div>
    {#if fail}<p class="font-semibold text-error">✕ {STAGE_NAMES[fail.stage]}: {stageText(fail)}</p>
    {:else}<p class="quiet">{ladderSentence(u.stages)}</p>{/if}
  {/each}
  {#each live as l (l.family)}<LiveRungs uplink={l} short />{/each}
  <dl class="mt-1 flex flex-wrap gap-x-5 gap-y-0.5">
    {#each learned as l (l.from)}
      <div class="flex gap-1.5">
        <dt class="quiet">{l.from}</dt>
        <dd class="mono">
          ⟨{l.address}⟩ gateway ⟨{l.gateway || 'none'}⟩ names ⟨{l.names.join(' ') ||
            'none'}⟩{#if l.left !== undefined}
            <span class="font-sans quiet">, {leftText(l.left)} left</span>{/if}
        </dd>
      </div>
    {:else}
      {#if iface.addresses[0]}<div class="flex gap-1.5">
          <dt class="quiet">static</dt>
          <dd class="mono">
            {formatPrefix(iface.addresses[0].prefix)}{iface.gateway.by === 'address'
              ? `, gateway ${formatIp(iface.gateway.address)}`
              : ''}
          </dd>
        </div>{/if}
    {/each}
    <div class="flex items-center gap-1.5">
      <dt class="quiet">health check <span class="mono text-[12px]">watch</span></dt>
      <dd>
        {#if watch.addresses.length}<button
            class="mono cursor-pointer hover:underline"
            onclick={() => session.nav.select(iface.statement.subject)}
            >{watch.addresses.map(formatIp).join(' ')}</button
          >
          <span class="quiet"
            >every {spanText(watch.every)}, dead after {watch.lost} in a row, back after {spanText(
              watch.settle,
            )}</span
          >
        {:else}
          <form
            class="flex items-center gap-1"
            onsubmit={(e) => {
              e.preventDefault();
              addWatch();
            }}
          >
            <input
              class="field mono h-6 w-32 py-0"
              aria-label={`address to watch by ${iface.name}`}
              placeholder="192.0.2.1"
              aria-invalid={why !== ''}
              bind:value={watched}
              data-testid={`watch-${iface.name}`}
            />
            <button class="btn h-6 min-h-0 px-1.5 btn-xs" disabled={!watched.trim()}>watch</button>
            <span class={why ? 'text-error' : 'quiet'}
              >{why || 'nothing: dead behind its gateway is not noticed'}</span
            >
          </form>
        {/if}
      </dd>
    </div>
  </dl>
</li>

<style>
  .pipe {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 12px;
    margin: 4px 0;
    padding: 4px 8px;
    border-block: 3px double var(--quiet);
    background: var(--color-base-200);
  }
  .broken {
    border-block-style: dashed;
  }
  .end {
    font-weight: 600;
  }
</style>
