<script lang="ts">
  import { freezeReach, isFrozen, thawReach, addStatement } from '#core/edits';
  import type { ReachCellView, ReachEndView } from '../../session/index';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  let { onask }: { onask: (from: string, to: string, service: string) => void } = $props();
  const session = useSession();
  const reach = $derived(session.derived?.reach);
  let filter = $state('');
  const hosts = $derived(session.everyHost);
  let differing = $state(false);
  const isHost = (e: ReachEndView) => e.kind === 'station' || e.kind === 'known';
  const fits = (e: ReachEndView) =>
    (hosts || !isHost(e)) && (!filter || e.text.includes(filter) || e.kind.includes(filter));
  const byPlace = $derived(new Map((reach?.cells ?? []).map((c) => [`${c.from} ${c.to}`, c])));
  const cellAt = (from: number, to: number): ReachCellView | undefined => byPlace.get(`${from} ${to}`);
  const differs = (i: number) => (reach?.cells ?? []).some((c) => c.from === i && c.was !== undefined);
  const rows = $derived(
    (reach?.sources ?? [])
      .map((end, i) => ({ end, i }))
      .filter(
        ({ end, i }) => (fits(end) || (!!filter && !isHost(end) && anyColumn)) && (!differing || differs(i)),
      ),
  );
  /** Where a filter fits no row it is about columns. */
  const anyColumn = $derived(!!filter && !(reach?.sources ?? []).some(fits));
  const columns = $derived(
    (reach?.destinations ?? [])
      .map((end, i) => ({ end, i }))
      .filter(({ end }) => (hosts || !isHost(end)) && (!anyColumn || fits(end))),
  );
  const drawn = gradually(() => rows);
  /** Columns drawn at most; the filter finds the rest. */
  const MOST = 60;
  const abreast = $derived(columns.slice(0, MOST));
  /**
   * Width of a column in characters, from what stands in it: a browser that looks for the widths itself lays out the
   * whole table anew with every row that is drawn.
   */
  const widthOf = (c: (typeof columns)[number]): number => {
    const lengths = rows.map((r) => {
      const cell = cellAt(r.i, c.i);
      const text = (cell?.text.length ?? 1) + (cell?.was === undefined ? 0 : cell.was.length + 5);
      // An address stands in the wider letters.
      return Math.max(text * LETTER, cell?.leavesAs ? cell.leavesAs.length + 4 : 0);
    });
    return Math.min(30, Math.max(4, c.end.text.length, ...lengths)) + 2.5;
  };
  /** How wide a letter of running text is, of a digit. */
  const LETTER = 0.9;
  const first = $derived(
    Math.min(30, Math.max(10, ...rows.map((r) => r.end.text.length + (isHost(r.end) ? 8 : 0)))) + 2.5,
  );
  const widths = $derived(abreast.map(widthOf));
  const wordOf = (e: ReachEndView): string =>
    e.kind === 'box' ? 'box' : e.kind === 'zone' || e.kind === 'internet' ? e.name : `${e.kind} ${e.name}`;
  /** The promise that says what a cell says. */
  function promiseOf(
    from: ReachEndView,
    to: ReachEndView,
    cell: ReachCellView | undefined,
  ): string | undefined {
    if (to.kind === 'box' || (from.kind === to.kind && from.name === to.name)) return undefined;
    const [a, b] = [wordOf(from), wordOf(to)];
    if (!cell || cell.verdict === 'none') return `expect ${a} never reaches ${b}`;
    const services = cell.services;
    return `expect ${a} reaches ${b}${cell.verdict === 'all' || services === 'any' ? '' : ` ${services}`}`;
  }
  function promise(from: ReachEndView, to: ReachEndView, cell: ReachCellView | undefined) {
    const text = promiseOf(from, to, cell);
    if (!text) return;
    if (
      session.site.statements.some(
        (s) => s.kind === 'expect' && s.subject.startsWith(text.replace('expect ', 'expect/')),
      )
    )
      session.notice = `That is promised already: ${text}`;
    else if (session.apply(addStatement(session.site, 'expect', text), text))
      session.notice = `Promised: ${text}`;
  }
  const frozen = $derived(isFrozen(session.site));
  /** More promises than this are neither read by anybody nor asked while somebody types. */
  const MOST_FROZEN = 500;
  function freeze() {
    const promises = rows.flatMap(({ end: from, i }) =>
      columns.flatMap(({ end: to, i: j }) => {
        if (isHost(from) || isHost(to) || (from.kind === 'internet' && to.kind === 'internet')) return [];
        if (zoneIsUpstream(from) && (zoneIsUpstream(to) || to.kind === 'internet')) return [];
        if (from.kind === 'internet' && zoneIsUpstream(to)) return [];
        return promiseOf(from, to, cellAt(i, j)) ?? [];
      }),
    );
    if (promises.length > MOST_FROZEN)
      session.notice = `That would be ${promises.length} promises, and ${MOST_FROZEN} are the most that are kept up while you type. Find a zone or a door first: what is shown is what is frozen.`;
    else
      session.apply(freezeReach(session.site, promises), `freeze the reach as ${promises.length} promises`);
  }
  const zoneIsUpstream = (e: ReachEndView): boolean =>
    e.kind === 'zone' && !!session.site.zones.find((z) => z.name === e.name)?.upstream;
  function move(event: KeyboardEvent & { currentTarget: HTMLButtonElement }) {
    const steps: Record<string, readonly [number, number]> = {
      ArrowRight: [0, 1],
      ArrowLeft: [0, -1],
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
    };
    const step = steps[event.key];
    if (!step) return;
    event.preventDefault();
    const cell = event.currentTarget.closest('td')!;
    const row = cell.parentElement as HTMLTableRowElement;
    const body = row.parentElement as HTMLTableSectionElement;
    const next = body.rows[row.sectionRowIndex + step[0]]?.cells[cell.cellIndex + step[1]];
    next?.querySelector('button')?.focus();
  }
</script>

<section aria-label="reach" class="panel p-3">
  <div class="mb-2 flex flex-wrap items-baseline gap-3">
    <h2 class="h2">Who reaches what</h2>
    <label
      >find <input
        class="field mono w-36"
        bind:value={filter}
        placeholder="tills"
        data-testid="reach-filter"
      /></label
    >
    <label
      ><input
        type="checkbox"
        checked={hosts}
        onchange={(e) => session.showHosts(e.currentTarget.checked)}
        data-testid="reach-hosts"
      /> with every host</label
    >
    {#if reach?.changes.length}
      <label><input type="checkbox" bind:checked={differing} /> only what differs from running</label>
    {/if}
    <span class="ms-auto flex gap-2">
      {#if frozen}
        <button
          class="btn btn-xs"
          data-testid="thaw"
          onclick={() => session.apply(thawReach(session.site), 'thaw the reach')}
          >Thaw the frozen reach</button
        >
      {:else}
        <button
          class="btn btn-xs"
          data-testid="freeze"
          onclick={freeze}
          title="write what is shown here as promises, before a risky change">Freeze it as promises</button
        >
      {/if}
    </span>
  </div>
  {#if reach}
    <div class="max-h-[26rem] overflow-auto">
      <table
        class="reach"
        style:width={`${widths.reduce((sum, w) => sum + w, first)}ch`}
        data-testid="reach-table"
      >
        <colgroup>
          <col style:width={`${first}ch`} />
          {#each widths as w, n (n)}<col style:width={`${w}ch`} />{/each}
        </colgroup>
        <thead>
          <tr>
            <th scope="col"><span class="quiet">from ↓ to →</span></th>
            {#each abreast as c (c.i)}<th scope="col">{c.end.text}</th>{/each}
          </tr>
        </thead>
        <tbody>
          {#each drawn.shown as r (r.i)}
            <tr>
              <th scope="row"
                >{r.end.text}{#if isHost(r.end)}
                  <span class="quiet">{r.end.kind}</span>{/if}</th
              >
              {#each abreast as c (c.i)}
                {@const cell = cellAt(r.i, c.i)}
                <td>
                  <button
                    class={['cell', cell && cell.verdict !== 'none' && 'open']}
                    data-testid={`cell-${r.end.name}-${c.end.name}`}
                    title={cell?.lines.length
                      ? `by line ${cell.lines.map((l) => l.line).join(', ')}`
                      : undefined}
                    onclick={() => onask(wordOf(r.end), wordOf(c.end), cell?.ask ?? 'ping')}
                    onkeydown={(e) => {
                      if (e.key === 'p') {
                        e.preventDefault();
                        e.stopPropagation();
                        promise(r.end, c.end, cell);
                      } else move(e);
                    }}
                  >
                    {#if cell?.was === '·'}<span class="quiet">new:</span>{:else if cell?.was !== undefined}<s
                        class="quiet">{cell.was}</s
                      >{/if}
                    {cell ? cell.text : '·'}
                    {#if cell?.leavesAs}<span class="mono block whitespace-nowrap quiet"
                        >as {cell.leavesAs}</span
                      >{/if}
                  </button>
                </td>
              {/each}
            </tr>
          {:else}
            <tr><td class="quiet" colspan={abreast.length + 1}>Nobody of that name.</td></tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if columns.length > MOST}<p class="mt-1 quiet">
        The first {MOST} of {columns.length} columns; say what to find.
      </p>{/if}
    <p class="mt-1 quiet">
      All uplinks taken as live. <span class="key">Enter</span> follows one flow of a cell,
      <span class="key">p</span>
      makes it a promise, arrows move.
    </p>
  {/if}
</section>

<style>
  .reach {
    table-layout: fixed;
    border-collapse: collapse;
  }
  .reach th {
    position: sticky;
    background: var(--color-base-100);
    padding: 2px 8px;
    text-align: start;
    font-weight: 600;
    overflow-wrap: anywhere;
  }
  .reach thead {
    position: sticky;
    top: 0;
    z-index: 1;
  }
  .reach tbody th {
    left: 0;
  }
  .reach td {
    border: 1px solid var(--color-base-300);
    padding: 0;
    vertical-align: top;
  }
  .cell {
    display: block;
    width: 100%;
    overflow-wrap: anywhere;
    padding: 2px 8px;
    text-align: start;
    color: var(--quiet);
  }
  .cell.open {
    color: var(--color-base-content);
  }
  .cell:hover {
    background: var(--color-accent);
  }
</style>
