<script lang="ts">
  import { formatIp, formatPrefix, parseIp } from '#core/addr';
  import { modelOf } from '#core/model';
  import { lookUp } from '#core/semantics';
  import { partText } from '#words';
  import HandDrift from '../live/HandDrift.svelte';
  import { useSession } from '../../session/index';
  import Ladder from '../ladder/Ladder.svelte';
  import Hands from '../live/Hands.svelte';
  import LiveRungs from '../live/LiveRungs.svelte';
  import Term from '../controls/Term.svelte';
  import Table from './Table.svelte';
  import { HEADS, benchRows, liveRows } from './rows';
  import type { Section } from './rows';
  // What the box knows now: the draft on the bench, what runs on the bench, or the live box itself.
  const session = useSession();
  const live = $derived(session.isLive ? session.live : undefined);
  type Source = 'draft' | 'running' | 'live';
  let chosen = $state<Source | undefined>();
  const source = $derived<Source>(
    chosen === 'live' && !live?.sight ? 'draft' : (chosen ?? (live?.sight ? 'live' : 'draft')),
  );
  const SOURCES: readonly (readonly [Source, string])[] = [
    ['draft', 'draft, on the bench'],
    ['running', 'running, on the bench'],
    ['live', 'live box'],
  ];
  let section = $state<Section | 'log' | 'station'>('routes');
  const SECTIONS: readonly (readonly [Section | 'log' | 'station', string])[] = [
    ['routes', 'Routes'],
    ['neighbours', 'Neighbours'],
    ['leases', 'Leases'],
    ['names', 'Names'],
    ['ports', 'Ports'],
    ['flows', 'Flows'],
    ['hits', 'Hits'],
    ['log', 'Log'],
    ['station', 'A station'],
  ];
  let filter = $state('');
  const runningModel = $derived(source === 'draft' ? session.model : modelOf(session.runningSite));
  const proof = $derived(
    source === 'draft' ? session.derived?.draft : (session.derived?.running ?? session.derived?.draft),
  );
  let flows = $state.raw<readonly string[]>([]);
  let log = $state.raw<readonly string[]>([]);
  /** What the box is asked only while it is looked at. */
  $effect(() => {
    if (source !== 'live' || (section !== 'flows' && section !== 'log')) return;
    const what = section;
    const ask = async () => {
      const lines = (await live?.question({ what })) ?? [];
      if (what === 'flows') flows = lines;
      else log = lines;
    };
    void ask();
    const timer = setInterval(() => void ask(), 3000);
    return () => clearInterval(timer);
  });
  const rows = $derived(
    source === 'live' && live?.sight
      ? liveRows(runningModel, live.sight, flows)
      : benchRows(runningModel, proof),
  );

  // ---- where would it go
  let where = $state('');
  let from = $state('');
  const inside = $derived(session.site.interfaces.filter((i) => !i.off));
  const answer = $derived.by(() => {
    const address = parseIp(where.trim());
    if (where.trim() === '') return '';
    if (address === undefined) return `“${where.trim()}” is no address yet.`;
    const table = inside.find((i) => i.name === from)?.table ?? 'main';
    const route = lookUp(runningModel.routes, table, address);
    if (!route) return `${formatIp(address)} goes nowhere from table ${table}: no route leads there.`;
    const out = route.interface ?? 'nowhere: it is dropped';
    return `${formatIp(address)} goes out by ${out}${route.via === undefined ? (route.interface === undefined ? '' : ', straight to it') : ` to ${formatIp(route.via)}`}: ${route.origin} route ${formatPrefix(route.prefix)} of table ${table}.`;
  });
  /** The live box's own kernel is asked, once somebody stops typing. */
  let kernel = $state('');
  $effect(() => {
    kernel = '';
    const to = parseIp(where.trim());
    if (source !== 'live' || to === undefined || !live) return;
    const by = from || undefined;
    const ask = async () => {
      const [line] = await live.question({ what: 'route', to: formatIp(to), by });
      kernel = line ?? '';
    };
    const timer = setTimeout(() => void ask(), 400);
    // Ways come and go.
    const again = setInterval(() => void ask(), 3000);
    return () => {
      clearTimeout(timer);
      clearInterval(again);
    };
  });

  // ---- ping and look up, again and again
  let pingTo = $state('');
  let by = $state('');
  let going = $state(false);
  let pings = $state.raw<readonly string[]>([]);
  const good = $derived(pings.filter((p) => p.startsWith('pass')).length);
  $effect(() => {
    if (!going) return;
    let stopped = false;
    const round = async () => {
      while (!stopped) {
        const line = await pingOnce();
        if (stopped) return;
        pings = [line, ...pings].slice(0, 60);
        await new Promise((resolve) => setTimeout(resolve, 1000));
      }
    };
    void round();
    return () => (stopped = true);
  });
  /** A name is looked up, an address is pinged. */
  async function pingOnce(): Promise<string> {
    const to = pingTo.trim();
    const address = parseIp(to);
    if (source === 'live' && live) {
      const [line = 'fail no answer'] = await (address === undefined
        ? live.question({ what: 'look-up', name: to, by: by || undefined })
        : live.question({ what: 'ping', to: formatIp(address), by: by || undefined }));
      return line;
    }
    const said = await session.ask(by || 'box', to, 'ping');
    return said.ok
      ? `${said.verdict === 'passed' || said.verdict === 'answered' ? 'pass' : 'fail'} ${said.sentence}`
      : `fail ${said.why}`;
  }

  // ---- a real packet, followed
  let whyFrom = $state('');
  let whyTo = $state('');
  let whyService = $state('ping');
  let why = $state.raw<readonly string[]>([]);
  let waiting = $state(false);
  /** The box's text knows no station and no far host: they go by their addresses. */
  function addressed(end: string): string {
    const { prospects } = session.model;
    const own = prospects.stations.get(end) ?? prospects.stations6.get(end);
    const far = session.wiring.fars.find((f) => f.name === end)?.addresses[0];
    const address = own?.address ?? far;
    return address === undefined ? end : formatIp(address);
  }
  async function follow() {
    if (!live) return;
    waiting = true;
    why = await live.question({
      what: 'why',
      from: addressed(whyFrom.trim()),
      to: addressed(whyTo.trim()),
      service: whyService.trim() || undefined,
    });
    waiting = false;
  }

  // ---- a station as its user sees it
  let station = $state('');
  const stations = $derived(session.wiring.stations.filter((s) => !s.off));
  const desk = $derived(proof?.desks.find((d) => d.station === station));
  const lease = $derived(proof?.leases.find((l) => l.station === station));
  const settings = $derived(stations.find((s) => s.name === station));
  const own = $derived([
    runningModel.prospects.stations.get(station),
    runningModel.prospects.stations6.get(station),
  ]);
  const ends = $derived([
    ...new Set([...stations.map((s) => s.name), ...session.site.fars.map((f) => f.name), 'internet']),
  ]);
</script>

<div class="mx-auto max-w-[1500px] space-y-3 p-4" data-testid="state">
  <div class="flex flex-wrap items-end gap-3">
    <h1 class="h2">State</h1>
    <div class="join" role="group" aria-label="of what">
      {#each SOURCES as [id, text] (id)}
        <button
          class={['btn join-item btn-xs', source === id && 'bg-accent font-semibold text-accent-content']}
          aria-pressed={source === id}
          disabled={id === 'live' && !live?.sight}
          data-testid="source-{id}"
          onclick={() => (chosen = id)}>{text}</button
        >
      {/each}
    </div>
    {#if source === 'live' && live}
      <span class={live.lost ? 'font-semibold text-error' : 'quiet'} data-testid="state-age"
        >● live {live.place}, {live.lost
          ? `no answer: ${live.lost.text}`
          : `${Math.max(0, (session.now - live.seenAt) / 1000).toFixed(1)} s ago`}</span
      >
    {:else}<span class="quiet">□ the <Term word="bench" />: what is foretold, not asked of a box</span>{/if}
    <label class="ms-auto"
      >filter <input
        class="field mono w-44"
        bind:value={filter}
        placeholder="10.61.20"
        data-testid="state-filter"
      /></label
    >
  </div>
  {#if source === 'live'}<HandDrift />{/if}
  {#if source === 'live' && live?.sight?.part}
    <p class="panel p-3" data-testid="state-part">{partText(live.sight.part)}</p>
  {/if}
  {#if source === 'live' && live?.uplinks.length}
    <ul class="panel p-3" aria-label="live ladders">
      {#each live.uplinks as u (u.interface + u.family)}<li>
          <b>{u.interface}{u.family === 'ipv6' ? ' v6' : ''}</b>
          <LiveRungs uplink={u} />
        </li>{/each}
    </ul>
  {/if}
  <div class="flex flex-wrap gap-1" role="tablist" aria-label="what of it">
    {#each SECTIONS as [id, text] (id)}
      <button
        role="tab"
        class={[
          'btn btn-sm',
          section === id ? 'bg-accent font-semibold text-accent-content' : 'btn-ghost font-normal',
        ]}
        aria-selected={section === id}
        data-testid="section-{id}"
        onclick={() => (section = id)}
        >{text}{id !== 'log' && id !== 'station' ? ` ${rows[id].length}` : ''}</button
      >
    {/each}
  </div>
  {#if section === 'routes'}
    <section class="panel p-3" aria-label="where would it go">
      <label
        >Where would <input
          class="field mono inline-block w-44"
          bind:value={where}
          placeholder="203.0.113.9"
          data-testid="where-to"
        /></label
      >
      <label
        >go from <select class="select w-auto select-xs" bind:value={from} data-testid="where-from"
          ><option value="">the box itself</option>{#each inside as i (i.name)}<option>{i.name}</option
            >{/each}</select
        >?</label
      >
      <p class="mt-1 font-semibold" aria-live="polite" data-testid="where-answer">{answer}</p>
      {#if kernel}<p class="mono text-[12.5px]" data-testid="where-kernel">
          ● the box’s kernel: {kernel}
        </p>{/if}
    </section>
  {/if}
  {#if section === 'log'}
    {#if source === 'live'}
      <ol class="panel max-h-[60vh] overflow-auto p-2" data-testid="live-log">
        {#each log.filter((l) => l.includes(filter)).toReversed() as line, n (n)}
          <li class="mono border-t border-base-300 text-[12.5px] break-words">{line}</li>
        {:else}<li class="quiet">No line.</li>{/each}
      </ol>
    {:else}
      <Table
        name="log"
        heads={HEADS.flows}
        rows={rows.flows}
        {filter}
        empty="Nothing came to the box on the bench."
      />
    {/if}
  {:else if section === 'station'}
    <section class="panel p-3" aria-label="station">
      <label
        >station <select class="select w-auto select-xs" bind:value={station} data-testid="station"
          ><option value="">choose …</option>{#each stations as s (s.name)}<option>{s.name}</option
            >{/each}</select
        ></label
      >
      {#if settings}
        <dl class="my-2 grid grid-cols-[max-content_1fr] gap-x-3" data-testid="station-settings">
          <dt class="quiet">address</dt>
          <dd class="mono">{own.flatMap((p) => (p ? [formatPrefix(p)] : [])).join(', ') || 'none'}</dd>
          <dt class="quiet">default gateway</dt>
          <dd class="mono">
            {lease?.gateway || (settings.gateway === undefined ? 'none' : formatIp(settings.gateway))}
          </dd>
          <dt class="quiet">name servers</dt>
          <dd class="mono">{(lease?.names ?? settings.names.map(formatIp)).join(', ') || 'none'}</dd>
          {#each Object.entries(lease?.options ?? {}) as [name, value] (name)}
            <dt class="quiet">option {name}</dt>
            <dd class="mono">{value}</dd>
          {/each}
        </dl>
        {#if source === 'live'}<p class="quiet">
            A live box cannot see a desk from inside; this is what the bench foretells of it.
          </p>{/if}
        {#if desk}<Ladder
            title={desk.station}
            about={`on ${desk.interface}`}
            stages={desk.stages}
            supposed={desk.supposed}
          />{/if}
      {/if}
    </section>
  {:else}
    <Table
      name={section}
      heads={HEADS[section]}
      rows={rows[section]}
      {filter}
      empty={section === 'leases'
        ? 'Nobody has a lease.'
        : section === 'names'
          ? 'No rule speaks of a name: a known host may (known vendor: name update.example).'
          : 'None.'}
    />
  {/if}
  <div class="grid gap-3 min-[900px]:grid-cols-2">
    <section class="panel p-3" aria-label="ping">
      <h2 class="mb-2 h2">Ping and look up</h2>
      <form
        class="flex flex-wrap items-end gap-2"
        onsubmit={(e) => {
          e.preventDefault();
          pings = [];
          going = !going;
        }}
      >
        <label class="w-44"
          >address or name <input
            class="field mono"
            bind:value={pingTo}
            placeholder="192.0.2.80"
            data-testid="ping-to"
          /></label
        >
        <label
          >from <select class="select w-auto select-xs" bind:value={by} data-testid="ping-by"
            ><option value="">the box itself</option>
            {#if source === 'live'}{#each inside as i (i.name)}<option>{i.name}</option>{/each}
            {:else}{#each stations as s (s.name)}<option>{s.name}</option>{/each}{/if}</select
          ></label
        >
        <button class="btn btn-sm btn-primary" disabled={!pingTo.trim()} data-testid="ping"
          >{going ? 'Stop' : 'Begin'}</button
        >
      </form>
      {#if pings.length}
        <p class="mt-2" data-testid="ping-sum">{good} of {pings.length} answered</p>
        <ol class="max-h-32 overflow-auto">
          {#each pings as p, n (n)}
            <li class={['mono text-[12.5px]', !p.startsWith('pass') && 'font-semibold text-error']}>
              {p.startsWith('pass') ? '✓' : '✕'}
              {p.replace(/^(pass|fail) ?/, '')}
            </li>
          {/each}
        </ol>
      {/if}
    </section>
    {#if source === 'live'}
      <section class="panel p-3" aria-label="follow a packet">
        <h2 class="mb-2 h2">Follow one real packet</h2>
        <form
          class="flex flex-wrap items-end gap-2"
          onsubmit={(e) => {
            e.preventDefault();
            void follow();
          }}
        >
          <label class="w-36"
            >from <input
              class="field mono"
              list="state-ends"
              bind:value={whyFrom}
              data-testid="why-from"
            /></label
          >
          <label class="w-36"
            >to <input class="field mono" list="state-ends" bind:value={whyTo} data-testid="why-to" /></label
          >
          <label class="w-28"
            >service <input class="field mono" bind:value={whyService} data-testid="why-service" /></label
          >
          <button
            class="btn btn-sm btn-primary"
            disabled={waiting || !whyFrom.trim() || !whyTo.trim()}
            data-testid="why">Wait for it</button
          >
          <datalist id="state-ends"
            >{#each ends as e (e)}<option value={e}></option>{/each}</datalist
          >
        </form>
        {#if waiting}<p class="mt-1 quiet" role="status">
            Waiting 10 s for such a packet: have it sent now.
          </p>{/if}
        {#each why as line, n (n)}
          <p class={n ? 'mono text-[12.5px]' : 'mt-2 font-semibold'} data-testid="why-{n}">
            {line.replace(/^fail /, '✕ ')}
          </p>
        {/each}
      </section>
    {/if}
  </div>
  <Hands />
</div>
