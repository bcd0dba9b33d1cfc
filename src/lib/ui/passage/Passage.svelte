<script lang="ts">
  import { addStatement, moveStatement, suggestedPassages } from '#core/edits';
  import type { FileChange, Statement } from '#core/notation';
  import type { RibbonView, TakingView } from '../../session/index';
  import { subjectCounted } from '#core/linux';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import Bank from './Bank.svelte';
  import Chips from './Chips.svelte';
  import Everyone from './Everyone.svelte';
  import { lookOf } from '../looks';
  import { ROW, ribbonPath } from './banks';
  import { doorsByZone } from './doors';

  const session = useSession();
  const zones = $derived(session.site.zones);
  const ribbons = $derived(session.derived?.reach.ribbons ?? []);
  const byEnds = $derived(new Map(ribbons.map((r) => [`${r.from} ${r.to}`, r])));
  const ribbon = (from: string, to: string): RibbonView | undefined => byEnds.get(`${from} ${to}`);
  /** The zone that most statements name, until another is chosen. */
  const focus = $derived(
    zones.find((z) => z.name === session.nav.focusZone) ??
      [...zones].sort((a, b) => count(b.name) - count(a.name))[0],
  );
  const count = (name: string): number =>
    session.site.passages.filter((p) => p.from.name === name || p.to.name === name).length;
  const others = $derived(zones.filter((z) => z !== focus));
  const drawn = gradually(() => others, 4);
  /** How high the words on a ribbon are: doors that are spread out make their row higher, and cover no other. */
  let chips = $state<Record<string, number | undefined>>({});
  const heightOf = (zone: string): number =>
    Math.max(ROW, (chips[`in ${zone}`] ?? 0) + 8, (chips[`out ${zone}`] ?? 0) + 8);
  const tops = $derived.by(() => {
    let top = 0;
    return others.map((z) => (top += heightOf(z.name)) - heightOf(z.name));
  });
  const height = $derived(others.reduce((sum, z) => sum + heightOf(z.name), 0) || ROW);
  const middle = $derived(height / 2);
  let chosen = $state.raw<{ from: string; to: string } | undefined>();
  /** All zones on both sides, instead of one in the middle. */
  let everyone = $state(false);
  const pair = $derived(
    chosen && (everyone || chosen.from === focus?.name || chosen.to === focus?.name) ? chosen : undefined,
  );
  const behind = $derived(pair && ribbon(pair.from, pair.to));

  const doors = $derived(doorsByZone(session.model));
  const suggested = $derived(focus ? suggestedPassages(session.site, focus.name) : []);
  const accept = (text: string) =>
    session.apply(addStatement(session.site, text.startsWith('leave') ? 'leave' : 'passage', text), text);

  /** How many flows of the last proof each statement decided. */
  const hits = $derived.by(() => {
    const out: Record<string, number> = {};
    for (const { subject } of session.derived?.draft.log ?? [])
      if (subject !== undefined) out[subject] = (out[subject] ?? 0) + 1;
    return out;
  });
  /** Hits of each statement on the live box, by its own counters: new flows, not packets. */
  const liveHits = $derived.by(() => {
    const sight = session.isLive ? session.live?.sight : undefined;
    if (!sight) return undefined;
    const out: Record<string, number> = {};
    for (const h of sight.hits) {
      const subject = subjectCounted(session.site, h.statement);
      if (subject !== undefined) out[subject] = (out[subject] ?? 0) + h.packets;
    }
    return out;
  });
  const statementOf = (t: TakingView): Statement | undefined =>
    session.site.statements.find((s) => s.subject === t.subject && s.file === t.file);
  /** A move that is thought of, with what it would change. */
  let move = $state.raw<{ changes: FileChange[]; label: string; says?: readonly string[] } | undefined>();
  let carried = $state<number | undefined>();
  async function think(from: number, to: number) {
    const list = behind?.statements ?? [];
    const [it, place] = [list[from] && statementOf(list[from]), list[to] && statementOf(list[to])];
    if (!it || !place || it === place) return;
    const changes = moveStatement(session.site, it, to < from ? { before: place } : { after: place });
    const label = `move line ${it.line} ${to < from ? 'before' : 'behind'} line ${place.line}`;
    move = { changes, label };
    const says = await session.compare(changes);
    if (move?.label === label) move = { changes, label, says };
  }
  $effect(() => {
    if (pair) move = undefined;
  });
</script>

<div class="mx-auto max-w-[1500px] p-4" data-testid="passage">
  {#if !focus}
    <p class="panel p-4 quiet">
      No zone yet: what may pass is said from zone to zone (security zones).
      <button class="link text-primary" onclick={() => session.nav.make('zone')}>Add a zone</button>, or
      <button class="link text-primary" onclick={() => session.nav.make('network')}
        >a network with its zone</button
      >.
    </p>
  {:else}
    <div class="mb-3 flex flex-wrap items-center gap-1" role="group" aria-label="zone in the middle">
      <span class="me-1 quiet">around</span>
      {#each zones as z (z.name)}
        <button
          class={['btn btn-xs', z === focus && !everyone ? 'btn-neutral' : 'btn-ghost']}
          aria-pressed={z === focus && !everyone}
          data-testid={`focus-${z.name}`}
          onclick={() => {
            session.nav.focusZone = z.name;
            everyone = false;
          }}>{z.name}</button
        >
      {/each}
      <button
        class={['btn ms-2 btn-xs', everyone ? 'btn-neutral' : 'btn-ghost']}
        aria-pressed={everyone}
        data-testid="focus-everyone"
        onclick={() => (everyone = !everyone)}>everyone</button
      >
    </div>
    {#if suggested.length && !everyone}
      <section class="mb-3 panel p-3" aria-label="suggested" data-testid="suggested">
        <p>
          By its place in the order of trust, <b>{focus.name}</b> would usually have:
        </p>
        <ul class="mt-1 flex flex-wrap gap-2">
          {#each suggested as text (text)}
            <li>
              <button class="btn mono btn-xs" onclick={() => accept(text)} title="write this statement"
                >{text}</button
              >
            </li>
          {/each}
        </ul>
      </section>
    {/if}
    {#if everyone}
      <Everyone {zones} {ribbons} {doors} {pair} onchoose={(p) => (chosen = p)} />
    {:else}
      <div
        class="grid grid-cols-[9.75rem_minmax(9rem,12rem)_minmax(3rem,1fr)_8rem_minmax(3rem,1fr)_minmax(9rem,12rem)_9.75rem]"
      >
        <p class="quiet">who begins</p>
        <p class="col-span-2 px-3 quiet">into {focus.name}</p>
        <p class="text-center quiet">in the middle</p>
        <p class="col-span-2 px-3 text-end quiet">out of {focus.name}</p>
        <p class="text-end quiet">who is reached</p>
        <div>
          {#each drawn.shown as z (z.name)}<Bank
              zone={z}
              end={false}
              height={heightOf(z.name)}
              onpick={() => (session.nav.focusZone = z.name)}
            />{/each}
        </div>
        {#each [true, false] as into (into)}
          <!-- What is written on a ribbon stands beside it, between its bank and where it begins to bend. -->
          <div
            class="relative"
            style:height={`${height}px`}
            style:grid-column={into ? 3 : 5}
            style:grid-row={2}
          >
            <svg
              class="absolute inset-0 size-full"
              viewBox={`0 0 100 ${height}`}
              preserveAspectRatio="none"
              aria-hidden="true"
            >
              {#each drawn.shown as z, i (z.name)}
                {@const r = into ? ribbon(z.name, focus.name) : ribbon(focus.name, z.name)}
                {@const y = tops[i]! + heightOf(z.name) / 2}
                {@const here =
                  pair &&
                  pair.from === (into ? z.name : focus.name) &&
                  pair.to === (into ? focus.name : z.name)}
                <path
                  d={into ? ribbonPath(y, middle) : ribbonPath(middle, y)}
                  fill="none"
                  vector-effect="non-scaling-stroke"
                  class={r?.text ? 'ribbon' : 'gap'}
                  stroke={r?.text ? `var(--tint-${lookOf(into ? z : focus).tint})` : 'var(--color-base-300)'}
                  stroke-width={r?.text ? (r.text.startsWith('everything') ? 16 : 9) : 1}
                  opacity={r?.text ? (here ? 0.55 : 0.28) : 1}
                />
              {/each}
            </svg>
          </div>
          <div
            class="relative"
            style:height={`${height}px`}
            style:grid-column={into ? 2 : 6}
            style:grid-row={2}
          >
            {#each drawn.shown as z, i (z.name)}
              {@const from = into ? z.name : focus.name}
              {@const to = into ? focus.name : z.name}
              {@const r = ribbon(from, to)}
              <div
                class="absolute inset-x-0 flex items-center"
                style:top={`${tops[i]}px`}
                style:height={`${heightOf(z.name)}px`}
              >
                <div
                  class={['flex w-full flex-wrap items-center gap-1', into && 'justify-end']}
                  bind:clientHeight={chips[`${into ? 'in' : 'out'} ${z.name}`]}
                >
                  <Chips
                    {from}
                    {to}
                    ribbon={r}
                    doors={zones.find((x) => x.name === from)?.upstream ? (doors.get(to) ?? []) : []}
                    chosen={pair?.from === from && pair.to === to}
                    onchoose={() => (chosen = { from, to })}
                  />
                </div>
              </div>
            {/each}
          </div>
        {/each}
        <div class="flex items-center" style:grid-column={4} style:grid-row={2}>
          <div class="w-full"><Bank zone={focus} end={false} main /></div>
        </div>
        <div style:grid-column={7} style:grid-row={2}>
          {#each drawn.shown as z (z.name)}<Bank
              zone={z}
              end
              height={heightOf(z.name)}
              onpick={() => (session.nav.focusZone = z.name)}
            />{/each}
        </div>
      </div>
    {/if}

    <section class="mt-4 panel" aria-label="statements" data-testid="behind">
      <h2 class="border-b border-base-300 px-3 py-1.5 font-semibold">
        {#if pair}{pair.from} → {pair.to}{:else if everyone}Behind the ribbons{:else}Within {focus.name}{/if}
      </h2>
      <p class="border-b border-base-300 px-3 py-1.5 quiet">
        First: answers to what was let pass go back by themselves; what fits no flow is dropped; nobody may
        show an address of the box.
      </p>
      {#if pair}
        <ol>
          {#each behind?.statements ?? [] as t, i (t.subject)}
            <li
              class={[
                'grid grid-cols-[4.5rem_1fr_auto] items-center gap-3 border-b border-base-300 px-3 py-1.5',
                carried === i && 'opacity-50',
              ]}
              draggable="true"
              data-testid={`takes-${i}`}
              ondragstart={() => (carried = i)}
              ondragend={() => (carried = undefined)}
              ondragover={(e) => e.preventDefault()}
              ondrop={(e) => {
                e.preventDefault();
                if (carried !== undefined) void think(carried, i);
                carried = undefined;
              }}
            >
              <button
                class="link text-start text-primary"
                onclick={() => {
                  const s = statementOf(t);
                  if (s) session.nav.show(s);
                  else session.nav.view = 'text';
                }}>line {t.line}</button
              >
              <span>
                <button
                  class="mono text-start hover:underline"
                  title="open it in the slip"
                  data-testid={`open-${i}`}
                  onclick={() => session.nav.select(t.subject)}>{t.text}</button
                >
                <span class="block quiet">
                  {t.verdict === 'allow' ? 'lets pass' : t.verdict === 'drop' ? 'swallows' : 'turns away'}
                  {#if t.takes}{t.takes}{#if t.after.length}, what {t.after.length === 1 ? 'line' : 'lines'}
                      {t.after.join(', ')} left{/if}
                  {:else}<b class="text-warning">nothing: line {t.after.join(', ')} took all of it</b>{/if}
                  · {hits[t.subject] ?? 'none'} of the bench’s flows{liveHits
                    ? ` · ${liveHits[t.subject] ?? 0} on the live box`
                    : ''}
                </span>
              </span>
              <span class="flex gap-1">
                <button
                  class="btn btn-xs"
                  disabled={i === 0}
                  aria-label={`think of line ${t.line} one place earlier`}
                  data-testid={`earlier-${i}`}
                  onclick={() => think(i, i - 1)}>↑</button
                >
                <button
                  class="btn btn-xs"
                  disabled={i === (behind?.statements.length ?? 0) - 1}
                  aria-label={`think of line ${t.line} one place later`}
                  onclick={() => think(i, i + 1)}>↓</button
                >
              </span>
            </li>
          {:else}
            <li class="px-3 py-2 quiet">No statement speaks of it.</li>
          {/each}
        </ol>
        <p class="border-b border-base-300 px-3 py-1.5">
          <button
            class="link text-primary"
            data-testid="passage-add"
            onclick={() => session.nav.make('passage', { zone: pair.from, to: pair.to })}
            >+ let something pass from {pair.from} to {pair.to}</button
          >
        </p>
        {#if move}
          {@const idea = move}
          <div
            class="border-b border-base-300 bg-accent px-3 py-2 text-accent-content"
            aria-live="polite"
            data-testid="move"
          >
            <b>{idea.label}</b>:
            {#if !idea.says}reckoning …{:else}
              {#each idea.says as line (line)}<p>{line}</p>{:else}nothing of the reach changes.{/each}
              <p class="mt-1 flex gap-2">
                <button
                  class="btn btn-xs btn-primary"
                  data-testid="move-do"
                  onclick={() => {
                    session.apply(idea.changes, idea.label);
                    move = undefined;
                  }}>move it</button
                >
                <button class="btn btn-xs" onclick={() => (move = undefined)}>leave it</button>
              </p>
            {/if}
          </div>
        {/if}
      {/if}
      <p class="px-3 py-1.5 quiet">
        {#if pair && pair.from !== pair.to}Last: nothing else starts from {pair.from} to {pair.to}.{:else if everyone}
          Last: what no statement lets pass does not pass. Choose a zone, then a ribbon to see the statements
          behind it, or a gap to write one.{:else}
          Last: between two networks of {focus.name}
          {focus.within === 'allow' ? 'everything passes' : 'nothing passes'} unless a statement says otherwise.
          Choose a ribbon to see the statements behind it; choose a gap to write one.{/if}
      </p>
    </section>
    {#if session.derived?.reach.changes.length}
      <section class="mt-4 panel p-3" aria-label="differs" data-testid="reach-changes">
        <h2 class="mb-1 h2">Against what runs</h2>
        {#each session.derived.reach.changes as line (line)}<p>{line}</p>{/each}
      </section>
    {/if}
  {/if}
</div>

<style>
  .ribbon {
    stroke-linecap: butt;
  }
  .gap {
    stroke-dasharray: 2 5;
  }
</style>
