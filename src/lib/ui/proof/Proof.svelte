<script lang="ts">
  import { formatIp } from '#core/addr';
  import { promiseText } from '#words';
  import type { Answer, ProofView } from '../../session/index';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import Term from '../controls/Term.svelte';
  import Rung from '../primitives/Rung.svelte';
  import Ladder from '../ladder/Ladder.svelte';
  import LiveBeside from '../live/LiveBeside.svelte';
  import Log from './Log.svelte';
  import { saveFile } from '../save';
  import ReachTable from './ReachTable.svelte';
  import { deskStopText, firstFail, ladderName, opensPage, standingOf, stopText } from '../ladder/ladders';

  const session = useSession();
  const proof = $derived(session.derived?.draft);
  const desks = gradually(() => proof?.desks ?? [], 4);
  const liveOf = (u: { interface: string; family: string }) =>
    session.live?.uplinks.find((l) => l.interface === u.interface && l.family === u.family);
  let from = $state('');
  let to = $state('');
  let service = $state('');
  const answer = $derived<Answer | undefined>(session.asked?.answer);
  const asking = $derived(!!session.asked && !session.asked.answer);
  const names = $derived([
    ...session.site.zones.map((z) => z.name),
    ...session.site.stations.map((s) => s.name),
    ...session.site.fars.map((f) => f.name),
    ...session.site.interfaces.map((i) => i.name),
    'internet',
  ]);
  async function ask() {
    if (!from.trim() || !to.trim()) return;
    await session.trace(from, to, service || undefined);
  }
  // Whoever asked, here or elsewhere: the question stands in the fields.
  $effect(() => {
    if (!session.asked) return;
    ({ from, to } = session.asked);
    service = session.asked.service ?? '';
  });
  /** Desks that do not get to a page, stopped by a fault or by a rule. */
  const stuck = $derived((proof?.desks ?? []).filter((d) => !d.supposed && !opensPage(d)));
  /** A far host that shows pages, as a PC would ask for it: by its name. */
  const page = $derived(
    session.site.fars.find((f) => !f.silent && f.listens)?.name ??
      session.wiring.fars.find((f) => !f.silent)?.name ??
      'internet',
  );
  type Desk = ProofView['desks'][number];
  /** Follows what stops a desk: its look-up where names are not answered, else the page itself. */
  function why(d: Desk) {
    const fail = firstFail(d.stages);
    const resolver =
      proof?.leases.find((l) => l.station === d.station)?.names[0] ??
      session.wiring.stations.find((s) => s.name === d.station)?.names.map(formatIp)[0];
    const isNames = fail?.stage === 'resolver' || fail?.stage === 'name';
    void (isNames && resolver ? follow(d.station, resolver, 'udp 53') : follow(d.station, page, 'tcp 443'));
  }
  const JUMPS = [
    ['ask', 'ask'],
    ['reach', 'who reaches what'],
    ['drills', 'drills'],
    ['promises', 'promises'],
    ['log', 'log'],
    ['ways out', 'ways out'],
    ['desks', 'desks'],
  ] as const;
  let whole = $state<HTMLElement>();
  function jump(label: string) {
    const section = whole?.querySelector<HTMLElement>(`section[aria-label="${label}"]`);
    section?.scrollIntoView({ block: 'start' });
    section?.querySelector<HTMLElement>('input, button, a, [tabindex="0"]')?.focus({ preventScroll: true });
  }
  /** What stops the one who asks before the page, as a name that nobody answers. */
  const askerTrouble = $derived(deskStopText(proof, session.asked?.from));
  let top = $state<HTMLElement>();
  async function follow(a: string, b: string, s: string) {
    await session.trace(a, b, s);
    top?.scrollIntoView({ block: 'start' });
  }
  const download = (bytes: Uint8Array) =>
    saveFile(`${from}-to-${to}.pcapng`.replace(/[^\w.-]+/g, '-'), bytes, 'application/x-pcapng');
  const toggle = (list: readonly string[], name: string) =>
    list.includes(name) ? list.filter((x) => x !== name) : [...list, name];
</script>

<div class="mx-auto max-w-[1500px] space-y-4 p-4" data-testid="proof" bind:this={whole}>
  <nav class="jump" aria-label="jump in the proof">
    {#each JUMPS as [label, says] (label)}
      <button class="link link-hover" onclick={() => jump(label)}>{says}</button>
    {/each}
  </nav>
  {#if stuck.length}
    <section class="panel p-3" aria-label="desks in trouble" data-testid="stuck">
      <h2 class="mb-1 h2">Who opens no page</h2>
      <ul class="space-y-0.5">
        {#each stuck as d (d.station)}
          <li>
            <button class="link text-primary" data-testid={`why-${d.station}`} onclick={() => why(d)}
              >Why does {d.station} open no page?</button
            >
            <span class="quiet">{stopText(d.stages) ?? 'it may not'}</span>
          </li>
        {/each}
      </ul>
    </section>
  {/if}
  <section class="panel p-3" aria-label="ask" bind:this={top}>
    <h2 class="mb-2 h2">Ask the <Term word="bench" /></h2>
    <form
      class="flex flex-wrap items-end gap-2"
      onsubmit={(e) => {
        e.preventDefault();
        void ask();
      }}
    >
      <label class="w-44"
        >from <input
          class="field mono"
          list="ends"
          bind:value={from}
          placeholder="wheel-pc"
          data-testid="ask-from"
        /></label
      >
      <label class="w-52"
        >to <input
          class="field mono"
          list="ends"
          bind:value={to}
          placeholder="www.example"
          data-testid="ask-to"
        /></label
      >
      <label class="w-36"
        >service <input
          class="field mono"
          bind:value={service}
          placeholder="ping"
          data-testid="ask-service"
        /></label
      >
      <button class="btn btn-sm btn-primary" disabled={asking || !from.trim() || !to.trim()}>Follow it</button
      >
      <datalist id="ends"
        >{#each [...new Set(names)] as n (n)}<option value={n}></option>{/each}</datalist
      >
    </form>
    {#if answer}
      <p class="mt-3 text-[0.9375rem] font-semibold" data-testid="answer" aria-live="polite">
        {answer.ok ? answer.sentence : answer.why}
      </p>
      {#if askerTrouble}<p class="quiet" data-testid="asker-trouble">{askerTrouble}</p>{/if}
      {#if answer.ok}
        {@const { capture } = answer}
        <p class="mt-1">
          <button class="btn btn-xs" data-testid="pcapng" onclick={() => download(capture)}
            >The frames as pcapng</button
          >
        </p>
        <ol class="trace mt-2" data-testid="trace">
          {#each answer.steps as s, i (i)}
            {@const before = answer.steps[i - 1]}
            <li class="grid grid-cols-[8rem_1fr] gap-3 py-0.5">
              <span class={before?.node === s.node ? 'invisible' : 'font-semibold'}>{s.node}</span>
              <span>
                {s.text}
                {#if before && s.stage !== 'sent' && (before.source !== s.source || before.destination !== s.destination)}
                  <span class="mono quiet"
                    >{before.source !== s.source ? `${before.source} → ${s.source}` : ''}
                    {before.destination !== s.destination
                      ? `${before.destination} → ${s.destination}`
                      : ''}</span
                  >
                {/if}
                {#if s.subject && s.line}
                  <button
                    class="link ms-1 text-primary"
                    onclick={() => {
                      session.nav.view = 'board';
                      session.nav.select(s.subject!);
                    }}>line {s.line}</button
                  >
                {/if}
              </span>
            </li>
          {/each}
        </ol>
      {/if}
    {/if}
  </section>

  <ReachTable onask={(a, b, s) => void follow(a, b, s)} />

  <section aria-label="drills" class="panel p-3">
    <h2 class="mb-2 h2"><Term word="drill" text="Drills" /></h2>
    <p class="mb-2 quiet">What if a line fails? Nothing is written; Esc restores.</p>
    <div class="flex flex-wrap gap-2">
      {#each session.site.circuits as c (c.name)}
        <span class="panel inline-flex items-center gap-1 px-2 py-1">
          <b>{c.name}</b>
          <button
            class="btn btn-xs"
            aria-pressed={session.drill.cut.includes(c.name)}
            onclick={() => session.setDrill({ ...session.drill, cut: toggle(session.drill.cut, c.name) })}
            >{session.drill.cut.includes(c.name) ? 'restore cable' : 'cut'}</button
          >
          <button
            class="btn btn-xs"
            data-testid={`deaden-${c.name}`}
            aria-pressed={session.drill.dead.includes(c.name)}
            onclick={() => session.setDrill({ ...session.drill, dead: toggle(session.drill.dead, c.name) })}
            >{session.drill.dead.includes(c.name) ? 'revive' : 'deaden'}</button
          >
        </span>
      {/each}
      {#if !session.site.circuits.length}<span class="quiet">The wiring names no circuit.</span>{/if}
    </div>
  </section>

  {#if proof}
    <section aria-label="promises">
      <h2 class="mb-2 h2">
        <Term word="promise" text="Promises" />
        <span class="font-normal quiet"
          >{proof.promises.filter((p) => p.result === 'pass').length} of {proof.promises.length} kept</span
        >
        <button
          class="btn ms-2 h-6 min-h-0 btn-ghost btn-xs"
          data-testid="promise-add"
          onclick={() => session.nav.make('expect')}>+ add</button
        >
      </h2>
      <ul class="panel divide-y divide-base-300">
        {#each proof.promises as p (p.file + p.line)}
          <li class="grid grid-cols-[16px_1fr] gap-2 px-3 py-1.5" data-testid="promise">
            <Rung result={p.result} evidence="bench" />
            <span
              ><span class="mono">{p.text.replace(/^expect /, '')}</span>
              <span class={p.result === 'fail' ? 'block font-semibold text-error' : 'quiet'}
                >{promiseText(p)}</span
              ></span
            >
          </li>
        {/each}
        {#if !proof.promises.length}<li class="px-3 py-2 quiet">
            No promise is made: what must always be so, checked with every keystroke.
            <button class="link text-primary" onclick={() => session.nav.make('expect')}
              >Promise something</button
            >
          </li>{/if}
      </ul>
    </section>
    <Log />
    <section aria-label="ways out">
      <h2 class="mb-2 h2">Ways out</h2>
      <div class="grid grid-cols-[repeat(auto-fill,minmax(380px,1fr))] gap-3">
        {#each proof.uplinks as u (u.interface + u.family)}
          <div>
            <Ladder title={ladderName(u)} about={standingOf(u)} stages={u.stages} supposed={u.supposed} />
            {#if liveOf(u)}<LiveBeside bench={u} live={liveOf(u)!} />{/if}
          </div>
        {/each}
      </div>
    </section>
    <section aria-label="desks">
      <h2 class="mb-2 h2">Desks</h2>
      <div class="grid grid-cols-[repeat(auto-fill,minmax(380px,1fr))] gap-3">
        {#each desks.shown as d (d.station)}<div class="when-near" style:--high="90px">
            <Ladder
              title={d.station}
              about={`on ${d.interface}${d.supposed ? ' · supposed' : ''}`}
              stages={d.stages}
              supposed={d.supposed}
            />
          </div>
        {/each}
      </div>
    </section>
  {/if}
</div>

<style>
  .jump {
    position: sticky;
    top: 0;
    z-index: 2;
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    margin: -16px -16px 0;
    padding: 4px 16px;
    border-bottom: 1px solid var(--color-base-300);
    background: var(--color-base-200);
  }
  section {
    scroll-margin-top: 34px;
  }
</style>
