<script lang="ts">
  import { changeClauses, dropStatement, joinChanges } from '#core/edits';
  import { findingText } from '#words';
  import { useSession } from '../../session/index';
  import type { FindingView } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import Weight from '../primitives/Weight.svelte';
  import PortHead from './PortHead.svelte';
  import SlabCard from './SlabCard.svelte';
  import ZoneHead from './ZoneHead.svelte';
  import { copySlabs } from './clipboard';
  import { ARROWS, commandOf, focusKey, lanesOf, placeOfSlab, slabUnder, slabsAt } from './keyboard';
  import type { At, Command } from './keyboard';
  import { DENSITIES, NOTHING, NO_PORT, boardOf, cellKey, keptList, steadyBoard } from './model';
  import type { Board, Density, Row, Slab } from './model';
  import { moveOf, writtenBy } from './moves';
  import type { Carried, Spot } from './moves';

  const session = useSession();
  let filter = $state('');
  let densities = $state.raw<Readonly<Record<string, Density>>>({});
  let grouped = $state(false);
  const steady = steadyBoard();
  const drawn = () =>
    boardOf({
      site: session.site,
      running: session.runningSite,
      wiring: session.wiring,
      prospects: session.prospects,
      changes: session.changes,
      findings: session.findings,
      held: session.held,
      byHand: session.byHand,
      cut: session.drill.cut,
      filter,
      densities,
      grouped,
      steady,
    });
  // A large board is drawn in a task of its own, so that writing an edit and drawing it are not one long one.
  const MOST_AT_ONCE = 100;
  const large = $derived(session.site.interfaces.length > MOST_AT_ONCE);
  let late = $state.raw<Board | undefined>();
  const board = $derived(large ? (late ?? NOTHING) : drawn());
  $effect(() => {
    if (!large) {
      late = undefined;
      return;
    }
    // Everything that what is drawn is made from is made from these.
    void [session.site, session.runningFiles, session.findings, session.held, session.byHand, session.drill];
    void [filter, densities, grouped];
    const timer = setTimeout(() => (late = drawn()));
    return () => clearTimeout(timer);
  });
  const steps = gradually(() => board.rows);
  /** The rows that are drawn so far. */
  const rows = $derived(large ? steps.shown : board.rows);
  let at = $state.raw<At>({ row: 0, col: 0, slab: 0 });
  /** Something on the move, and where it would go. */
  let carried = $state.raw<Carried | undefined>();
  let to = $state.raw<Spot>({ row: 0, col: 0 });
  let grid = $state<HTMLElement>();
  let sieve = $state<HTMLInputElement>();

  // Columns never change their width while somebody types in a statement.
  let widths: readonly number[] = [];
  const template = $derived.by(() => {
    const fresh = board.columns.map((c) => c.width);
    if (session.typing === undefined || widths.length !== fresh.length) widths = fresh;
    const col = (w: number, i: number) => {
      if (board.columns[i]!.sliver) return '28px';
      return `minmax(${w}px, ${Math.max(w, 280)}px)`;
    };
    return `128px ${widths.map(col).join(' ')}`;
  });
  let across = $state(0);
  /** What each column gets of the room that is left over. */
  const spare = $derived.by(() => {
    const wide = board.columns.filter((c) => !c.sliver);
    const least = board.columns.reduce((n, c) => n + c.width, 128);
    return wide.length ? Math.max(0, across - least) / wide.length : 0;
  });
  /** Characters of facts that fit into a slab of a column, at six pixels each. */
  const roomIn = (width: number) => Math.floor((Math.min(Math.max(width, 280), width + spare) - 46) / 6);

  const NONE: readonly Slab[] = [];
  const inPlace = (row: number, col: number): readonly Slab[] => slabsAt(board, row, col);
  const linesAbove = (row: Row): number => lanesOf(board, row).filter((l) => l.level >= 0).length;
  /** The grid line on which each row begins: behind the heads, and the lanes of the rows above. */
  const lines = $derived.by(() => {
    let line = 2;
    return board.rows.map((row) => {
      const start = line;
      line += linesAbove(row) + 1;
      return start;
    });
  });
  const selected = $derived(new Set(session.nav.selection));
  // A large board draws its empty cells only in the row that the pointer or the keyboard is in.
  const MOST_CELLS = 300;
  const sparse = $derived(board.columns.length * board.rows.length > MOST_CELLS);
  let pointed = $state(-1);
  const columns = $derived(board.columns);
  const everyColumn = $derived(columns.map((column, c) => ({ column, c })));
  let filled: ReadonlyMap<string, typeof everyColumn> = new Map();
  const filledColumns = $derived.by(() => {
    const now = board.rows.map(({ name }) => {
      const own = everyColumn.filter(({ column }) => board.cells.has(cellKey(name, column.port)));
      return [name, keptList(filled.get(name), own) as typeof everyColumn] as const;
    });
    return (filled = new Map(now));
  });
  const drawnIn = (row: Row, r: number) =>
    !sparse || r === pointed || r === at.row || (carried && r === to.row)
      ? everyColumn
      : (filledColumns.get(row.name) ?? []);

  // ---- carrying

  const move = $derived(carried ? moveOf(session.site, board, carried, to) : undefined);
  const writes = $derived(move?.changes.length ? writtenBy(session.site, move.changes) : []);
  /** Findings that the move would bring, once the worker has said so. */
  let brings = $state.raw<readonly FindingView[] | undefined>();
  $effect(() => {
    const changes = move?.changes;
    brings = undefined;
    if (!changes?.length) return;
    const told = ({ comes }: { readonly comes: readonly FindingView[] }) => {
      if (move?.changes === changes) brings = comes;
    };
    const timer = setTimeout(() => void session.foretell(changes).then(told, session.cannot), 80);
    return () => clearTimeout(timer);
  });

  function carry(what: Carried, place: Spot = { row: at.row, col: at.col }) {
    carried = what;
    to = place;
  }

  function drop() {
    const done = move?.changes.length && session.apply(move.changes, move.label);
    if (done && carried?.what === 'slabs') at = { row: to.row, col: to.col, slab: 0 };
    carried = undefined;
    if (done) focusAt();
  }

  /** A pointer brings something to a place: shown there, or dropped. */
  function offer(event: DragEvent, place: Spot, dropped: boolean): boolean {
    if (!carried) return false;
    const meant = carried.what !== 'port' || place.subject !== undefined;
    if (!meant) return false;
    event.preventDefault();
    event.stopPropagation();
    if (to.row !== place.row || to.col !== place.col || to.subject !== place.subject) to = place;
    if (dropped) drop();
    return true;
  }

  // ---- the keyboard

  const drawnAt = (key: string) => grid?.querySelector<HTMLElement>(`[data-at="${CSS.escape(key)}"]`);
  function focusNow() {
    // A key pressed in the meantime may have opened the say line, which keeps the keyboard.
    if (session.nav.saying !== undefined) return;
    const target = drawnAt(focusKey(board, at));
    if (!target && rows.length < board.rows.length) return void focusAt();
    target?.focus();
    target?.scrollIntoView?.({ block: 'nearest', inline: 'nearest' });
  }
  /** The keyboard goes to its place once what was written is drawn. */
  const focusAt = () => requestAnimationFrame(focusNow);

  /** Arrows pressed where nothing has the focus begin on the board. */
  function fromNowhere(event: KeyboardEvent) {
    if (!ARROWS[event.key] || document.activeElement !== document.body || session.nav.saying !== undefined)
      return;
    event.preventDefault();
    focusNow();
  }

  function onkeydown(event: KeyboardEvent) {
    if (event.target instanceof HTMLInputElement) return;
    const command = commandOf(board, { at, carried, to, selection: session.nav.selection }, event);
    if (!command) return;
    if (command.do === 'let-go') event.stopPropagation();
    // A key is the order, not the first letter of what is said, nor a scroll.
    event.preventDefault();
    run(command);
  }

  function run(command: Command) {
    switch (command.do) {
      case 'go':
        at = command.at;
        return focusAt();
      case 'carry':
        return carry(command.what, command.to);
      case 'carry-on':
        to = command.to;
        return;
      case 'drop':
        return drop();
      case 'let-go':
        carried = undefined;
        return focusAt();
      case 'shift-zone':
        carry({ what: 'zone', zone: command.zone }, command.to);
        drop();
        at = command.at;
        return focusAt();
      case 'cut':
        return session.toggleCut(command.port);
      case 'denser':
        return denser(command.row, command.by);
      case 'start':
        return startHere(at.row, at.col);
      case 'start-zone':
        return startZone(command.after);
      case 'sift':
        return sieve?.focus();
      case 'toggle':
        return toggle(command.subject);
      case 'open':
        return session.nav.select(command.subject);
      case 'remove':
        return removeAll(command.subjects);
      case 'nothing':
    }
  }

  // What is selected stays in sight when the slip takes a part of the board.
  $effect(() => {
    const subject = session.nav.selection[0];
    // On a large board its row may still have to be drawn.
    if (subject === undefined || (large && !rows.length)) return;
    requestAnimationFrame(() => drawnAt(subject)?.scrollIntoView({ block: 'nearest', inline: 'nearest' }));
  });

  // What was just made has the keyboard.
  let made = false;
  $effect(() => {
    const isMaking = !!session.nav.making;
    const subject = session.nav.selection[0];
    if (made && !isMaking && subject !== undefined && document.activeElement === document.body) {
      const place = placeOfSlab(board, subject);
      if (place) {
        at = place;
        focusAt();
      }
    }
    made = isMaking;
  });

  // When the say line or the slip is left, the keyboard is back where it was.
  let away = false;
  $effect(() => {
    const busy = session.nav.saying !== undefined || !!session.nav.making || session.nav.selection.length > 0;
    if (away && !busy && document.activeElement === document.body) focusAt();
    away = busy;
  });

  // ---- what the keys and buttons do

  function toggle(subject: string) {
    const rest = session.nav.selection.filter((s) => s !== subject);
    session.nav.select(...(rest.length < session.nav.selection.length ? rest : [...rest, subject]));
  }

  function removeAll(subjects: readonly string[]) {
    const changes = subjects.flatMap((s) => {
      const statement = session.statementOf(s);
      return statement ? [dropStatement(session.site, statement)] : [];
    });
    if (!changes.length) return;
    const label =
      subjects.length > 1
        ? `remove ${subjects.length} interfaces`
        : `remove ${subjects[0]!.replace('/', ' ')}`;
    if (session.apply(joinChanges(...changes), label)) session.nav.select();
    focusAt();
  }

  function denser(row: Row, by: number) {
    const next = DENSITIES[DENSITIES.indexOf(row.density) + by];
    if (next) densities = { ...densities, [row.name]: next };
  }

  function fold(row: Row) {
    const next: Density = row.density === 'folded' ? 'line' : 'folded';
    densities = { ...densities, [row.name]: next };
  }

  /** Starts an interface at a cell, with everything that its place suggests. */
  function startHere(r: number, c: number) {
    const row = board.rows[r];
    const port = board.columns[c]?.port;
    if (!row?.zone || port === undefined || port === NO_PORT) return;
    const place = { zone: row.name, port };
    session.nav.make(row.zone.upstream ? 'uplink' : row.zone.management ? 'management' : 'network', place);
  }

  const startZone = (after?: Row) => session.nav.make('zone', { zone: after?.zone?.name });

  function open(event: MouseEvent, subject: string) {
    if (event.ctrlKey || event.metaKey || event.shiftKey) toggle(subject);
    else session.nav.select(subject);
  }

  function switchPort(port: string) {
    const statement = session.statementOf(`port/${port}`);
    if (!statement) return;
    session.apply(
      changeClauses(session.site, statement, [{ do: 'remove', name: 'off' }]),
      `port ${port}: on`,
    );
  }
  /** The lowest and highest tag of folded slabs, which stand in that order. */
  const tagSpan = (slabs: readonly Slab[]) => {
    const tags = slabs.flatMap((s) => (/^\d+$/.test(s.tag) ? [s.tag] : []));
    return tags.length > 1 ? `tags ${tags[0]}–${tags[tags.length - 1]}` : '';
  };
  const wrong = (slabs: readonly Slab[]) =>
    slabs.filter((s) => s.findings.some((f) => f.severity === 'error')).length;
  const isFocused = (r: number, c: number, i: number) => at.row === r && at.col === c && at.slab === i;
  const isTarget = (r: number, c: number) => !!carried && to.row === r && to.col === c;
</script>

<svelte:window onkeydown={fromNowhere} />
<svelte:document oncopy={(e) => copySlabs(session, e, slabUnder(board, at)?.subject)} />

<div class="flex min-h-full flex-col" data-testid="board">
  <!-- svelte-ignore a11y_interactive_supports_focus -->
  <div
    class="grid-board"
    style:grid-template-columns={template}
    role="grid"
    aria-label="Board: ports across, zones from the outside in"
    aria-rowcount={board.rows.length + 1}
    aria-colcount={board.columns.length + 1}
    bind:this={grid}
    bind:clientWidth={across}
    {onkeydown}
  >
    <div role="row" class="contents">
      <div class="corner" role="columnheader" aria-label="Zones, outermost first">
        <input
          bind:this={sieve}
          bind:value={filter}
          class="field h-6 w-full py-0"
          data-testid="filter"
          aria-label="Filter slabs"
          placeholder="filter (s)"
          spellcheck="false"
          onkeydown={(e) => {
            if (e.key === 'Escape' || e.key === 'Enter') {
              if (e.key === 'Escape') filter = '';
              e.stopPropagation();
              at = { row: 0, col: 0, slab: 0 };
              focusAt();
            }
          }}
        />
        <div class="mt-1 flex">
          <button
            class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
            title="A new zone, where its role belongs (o puts one behind a row)"
            onclick={() => startZone()}>+ zone</button
          >
          {#if board.groupable >= 8}
            <button
              class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
              aria-pressed={grouped}
              data-testid="group"
              title="Runs of zones with one interface each, as one row"
              onclick={() => (grouped = !grouped)}>{grouped ? 'ungroup' : 'group'}</button
            >
          {/if}
        </div>
      </div>
      {#each board.columns as column, c (column.port)}
        <PortHead
          {column}
          style={`grid-area: 1 / ${c + 2}`}
          focusable={at.row < 0 && at.col === c}
          target={(carried?.what === 'plug' || carried?.what === 'bridge') && to.col === c}
          onfocus={() => (at = { row: -1, col: c, slab: 0 })}
          ondrag={(on) =>
            on ? carry({ what: 'port', port: column.port }, { row: -1, col: c }) : (carried = undefined)}
          onplug={(subject, tag, on) =>
            on ? carry({ what: 'plug', subject, tag }, { row: -1, col: c }) : (carried = undefined)}
          ondropat={(e, dropped) => carried?.what === 'plug' && offer(e, { row: -1, col: c }, dropped)}
        />
      {/each}
    </div>
    {#each rows as row, r (row.name)}
      {@const lanes = lanesOf(board, row)}
      {@const line = lines[r]!}
      {@const cellLine = line + linesAbove(row)}
      <div role="row" class="contents">
        <ZoneHead
          {row}
          style={`grid-area: ${line} / 1 / span ${linesAbove(row) + 1}`}
          focusable={at.row === r && at.col < 0}
          target={carried?.what === 'zone' && to.row === r}
          onfocus={() => (at = { row: r, col: -1, slab: 0 })}
          ondrag={(on) =>
            on ? carry({ what: 'zone', zone: row.name }, { row: r, col: -1 }) : (carried = undefined)}
          onfold={() => fold(row)}
          ondropat={(e, dropped) => carried?.what === 'zone' && offer(e, { row: r, col: -1 }, dropped)}
        />
        {#each lanes as lane (lane.slab.subject)}
          {@const mine = lane.level < 0 ? cellLine : line + lane.level}
          {@const first = lane.columns[0]!}
          {@const last = lane.columns[lane.columns.length - 1]!}
          {@const home = board.columns.findIndex((c) => c.port === lane.slab.port)}
          {#if !lane.across}
            <span
              class="joint"
              style={`grid-area: ${mine} / ${first + 2} / auto / ${last + 3}`}
              aria-hidden="true"
            ></span>
            {#each lane.columns.filter((c) => c !== home) as c (c)}
              <button
                class="stub"
                style={`grid-area: ${mine} / ${c + 2}`}
                tabindex={-1}
                title={`${board.columns[c]!.port} is a member of ${lane.slab.name}`}
                onclick={(e) => open(e, lane.slab.subject)}>{lane.slab.name.slice(0, 3)}</button
              >
            {/each}
          {/if}
          <div
            class="lane"
            role="gridcell"
            aria-colspan={lane.across ? lane.columns.length : 1}
            style={lane.across
              ? `grid-area: ${mine} / ${first + 2} / auto / ${last + 3}`
              : `grid-area: ${mine} / ${home + 2}`}
          >
            <SlabCard
              slab={lane.slab}
              density={row.density === 'full' || row.density === 'short' ? row.density : 'line'}
              room={lane.across ? 60 : 24}
              selected={selected.has(lane.slab.subject)}
              focusable={isFocused(r, home, inPlace(r, home).indexOf(lane.slab))}
              onfocus={() => (at = { row: r, col: home, slab: inPlace(r, home).indexOf(lane.slab) })}
              onopen={(e) => open(e, lane.slab.subject)}
              ondrag={(on) => (carried = on ? { what: 'slabs', subjects: [lane.slab.subject] } : undefined)}
              ondropat={(e, dropped) => offer(e, { row: r, col: home, subject: lane.slab.subject }, dropped)}
            />
          </div>
        {/each}
        {#if sparse}
          <span
            class="strip"
            style={`grid-area: ${cellLine} / 2 / auto / -1`}
            role="presentation"
            onmouseenter={() => (pointed = r)}
            ondragenter={() => (pointed = r)}
          ></span>
        {/if}
        {#each drawnIn(row, r) as { column, c } (column.port)}
          {@const all = board.cells.get(cellKey(row.name, column.port)) ?? NONE}
          {@const slabs = row.density === 'folded' ? NONE : all}
          {@const before = lanes.filter((x) => x.slab.port === column.port).length}
          {@const wide = row.density === 'line' && slabs.length > column.abreast}
          {@const bare = !slabs.length && !before && row.density !== 'folded'}
          <!-- svelte-ignore a11y_click_events_have_key_events -->
          <div
            class={['cell', column.sliver && 'thin', isTarget(r, c) && 'target', row.density]}
            style={`grid-area: ${cellLine} / ${c + 2}`}
            style:--abreast={wide ? column.abreast : undefined}
            style:--deep={row.density === 'line'
              ? Math.max(1, Math.ceil(slabs.length / (wide ? column.abreast : 1)))
              : undefined}
            role="gridcell"
            data-at={bare ? `${r}/${c}` : undefined}
            tabindex={bare && at.row === r && at.col === c ? 0 : -1}
            aria-label={bare ? `Start an interface in ${row.name} on ${column.port}` : undefined}
            onfocus={(e) => {
              if (bare && e.target === e.currentTarget) at = { row: r, col: c, slab: 0 };
            }}
            onclick={(e) => e.target === e.currentTarget && startHere(r, c)}
            ondragover={(e) => offer(e, { row: r, col: c }, false)}
            ondrop={(e) => offer(e, { row: r, col: c }, true)}
          >
            {#each slabs as slab, i (slab.subject)}
              <SlabCard
                {slab}
                density={row.density}
                grouped={row.group.length > 0}
                room={roomIn(column.width)}
                selected={selected.has(slab.subject)}
                target={carried?.what === 'port' && to.subject === slab.subject}
                focusable={isFocused(r, c, before + i)}
                onfocus={() => (at = { row: r, col: c, slab: before + i })}
                onopen={(e) => open(e, slab.subject)}
                ondrag={(on) =>
                  on
                    ? carry(
                        {
                          what: 'slabs',
                          subjects: selected.has(slab.subject) ? session.nav.selection : [slab.subject],
                        },
                        { row: r, col: c },
                      )
                    : (carried = undefined)}
                ondropat={(e, dropped) => offer(e, { row: r, col: c, subject: slab.subject }, dropped)}
              />
            {/each}
            {#if row.density === 'folded' && all.length}
              <button
                class="count"
                data-at={`${r}/${c}`}
                tabindex={at.row === r && at.col === c ? 0 : -1}
                onfocus={() => (at = { row: r, col: c, slab: 0 })}
                onclick={() => fold(row)}
              >
                <b>{all.length} interfaces</b>
                <span class="quiet">{tagSpan(all)}</span>
                {#if wrong(all)}<Weight severity="error" count={wrong(all)} />{/if}
              </button>
            {/if}
            {#if isTarget(r, c) && move?.changes.length && carried?.what === 'slabs'}<p class="preview">
                drops here
              </p>{/if}
            {#if column.off && slabs.length && r === board.rows.findIndex( (x) => board.cells.has(cellKey(x.name, column.port)) )}
              <button class="link text-start text-error" onclick={() => switchPort(column.port)}
                >{column.port} is off: switch it on</button
              >
            {/if}
          </div>
        {/each}
      </div>
    {/each}
  </div>
  {#if filter || carried || session.nav.selection.length > 1}
    <div class="says">
      {#if filter}
        <p class="panel px-3 py-1" role="status" data-testid="filter-says">
          filter: {filter} · {board.slabs.length} of {board.slabs.length +
            board.hidden.slabs}{#if board.hidden.errors}
            · <Weight severity="error" count={board.hidden.errors} /> hidden{/if}{#if board.hidden.warnings}
            · <Weight severity="warning" count={board.hidden.warnings} /> hidden{/if} ·
          <button class="key cursor-pointer" onclick={() => (filter = '')}>Esc</button>
        </p>
      {/if}
      {#if session.nav.selection.length > 1 && !carried}
        <p class="panel px-3 py-1" role="status">
          {session.nav.selection.length} selected · <span class="key">m</span> moves them,
          <span class="key">Ctrl+C</span> copies, <span class="key">Del</span> removes
        </p>
      {/if}
      {#if carried}
        <div class="panel px-3 py-1" role="status" data-testid="move-preview">
          {#if writes.length}
            writes {#each writes as text (text)}<span class="mono block">{text}</span>{/each}
            {#each (brings ?? []).slice(0, 3) as f, n (n)}
              <p class={`ground-${f.severity} rounded px-1`}>
                <Weight severity={f.severity} /> new: {findingText(f)}
              </p>
            {/each}
            <p>
              {#if brings && !brings.length}<span class="quiet">no new finding ·</span>{/if}
              <span class="key">Enter</span> drops, <span class="key">Esc</span> lets go
            </p>
          {:else if carried.what === 'plug'}arrows choose a port to plug it into
          {:else if carried.what === 'bridge'}arrows choose a port to bridge with, or to take out
          {:else if carried.what === 'port'}drop it on a slab to bridge them
          {:else}arrows choose a zone and a port{/if}
        </div>
      {/if}
    </div>
  {/if}
  {#if !board.rows.length && !large}
    <div class="p-6">
      <p class="mb-2 font-semibold">Nothing is written yet.</p>
      <p class="mb-3 quiet">
        Begin with the line to the internet (WAN), then a network behind the box (LAN, VLAN). First light, in
        the menu of the site's name above, leads through both.
      </p>
      <button class="btn btn-primary btn-sm" onclick={() => session.nav.make('uplink')}>Add an uplink</button>
      <button class="btn btn-sm" onclick={() => session.nav.make('network')}>Add a network</button>
    </div>
  {/if}
</div>

<style>
  /* Over the board, at its foot, so that nothing moves when it speaks. */
  .says {
    position: fixed;
    bottom: 140px;
    left: 12px;
    z-index: 6;
    display: flex;
    flex-direction: column;
    align-items: flex-start;
    gap: 6px;
    max-width: min(900px, 90vw);
    pointer-events: none;
  }
  .says .panel {
    pointer-events: auto;
    box-shadow: 0 4px 16px rgb(0 0 0 / 18%);
  }
  .grid-board {
    display: grid;
    width: 100%;
    min-width: min-content;
    align-content: start;
  }
  /* The sticky heads cover a part: what is brought into sight stands clear of them. */
  .grid-board :global([data-at]) {
    scroll-margin: 80px 8px 8px 136px;
  }
  .corner {
    position: sticky;
    left: 0;
    top: 0;
    z-index: 4;
    width: 128px;
    height: 72px;
    grid-area: 1 / 1;
    background: var(--color-base-200);
    padding: 10px 8px 4px;
    border-bottom: 2px solid var(--color-base-300);
    box-sizing: border-box;
  }
  .cell {
    position: relative;
    min-height: 40px;
    border-bottom: 1px solid var(--color-base-300);
    border-right: 1px dotted var(--color-base-300);
    padding: 5px 6px;
    display: flex;
    flex-direction: column;
    gap: 6px;
    min-width: 0;
    contain: layout style;
  }
  /* Single lines run down first, then to the next column, so that tags are read in their order. */
  .cell.line {
    display: grid;
    grid-auto-flow: column;
    grid-template-columns: repeat(var(--abreast, 1), minmax(0, 1fr));
    grid-template-rows: repeat(var(--deep, 1), auto);
    gap: 2px 6px;
    align-content: start;
  }
  .thin {
    padding: 0;
  }
  .strip {
    min-height: 40px;
    border-bottom: 1px solid var(--color-base-300);
  }
  .lane {
    padding: 5px 6px;
    min-width: 0;
    align-self: start;
    z-index: 1;
  }
  .joint {
    align-self: center;
    height: 2px;
    margin: 0 40px;
    background: var(--quiet);
  }
  .stub {
    align-self: center;
    justify-self: start;
    width: 28px;
    height: 28px;
    margin-left: 6px;
    border: 1px solid var(--quiet);
    border-radius: 4px;
    background: var(--color-base-100);
    font-size: 12px;
    overflow: hidden;
    cursor: pointer;
    z-index: 1;
  }
  .cell.target {
    box-shadow: inset 0 0 0 2px var(--color-primary);
    background: var(--color-accent);
  }
  .count {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 4px 8px;
    border: 1px solid var(--color-base-300);
    border-radius: 4px;
    background: var(--color-base-100);
    cursor: pointer;
    text-align: left;
  }
  .preview {
    color: var(--color-accent-content);
    font-weight: 600;
  }
  /* A cell shows that something can begin there, without an element for each. */
  .cell:not(.folded):hover::after,
  .cell:focus-visible::after {
    content: '+';
    position: absolute;
    right: 6px;
    bottom: 0;
    color: var(--quiet);
    pointer-events: none;
  }
  .cell:focus-visible {
    outline-offset: -3px;
  }
</style>
