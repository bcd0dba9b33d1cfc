<script lang="ts">
  import { changeClauses, interfaceText, moveToPort, moveToZone } from '#core/edits';
  import { freeName } from '#core/site';
  import { applyEdits, parseDocument } from '#core/notation';
  import type { FileChange } from '#core/notation';
  import { useSession } from '../../session/index';
  import PortHead from './PortHead.svelte';
  import SlabCard from './SlabCard.svelte';
  import { NO_ZONE, boardOf } from './model';
  import type { Slab } from './model';

  const session = useSession();
  const board = $derived(
    boardOf({
      site: session.site,
      running: session.runningSite,
      wiring: session.wiring,
      prospects: session.prospects,
      changes: session.changes,
      findings: session.findings,
      held: session.held,
      cut: session.drill.cut,
    }),
  );
  /** The keyboard's place: a crossing, and which slab in it. */
  let at = $state({ row: 0, col: 0, slab: 0 });
  /** A slab on the move: where it would go. */
  let moving = $state<{ subject: string; row: number; col: number } | undefined>();
  let grid = $state<HTMLElement>();

  const inCell = (row: number, col: number): Slab[] => {
    const zone = board.rows[row]?.name;
    const port = board.columns[col]?.port;
    return board.slabs.filter((s) => s.row === zone && s.port === port);
  };
  const template = $derived(
    `128px ${board.columns.map((c) => (c.sliver ? '28px' : `minmax(${c.width}px, 280px)`)).join(' ')}`,
  );

  const movingChanges = $derived.by((): readonly FileChange[] => {
    if (!moving) return [];
    const iface = session.site.interfaces.find((i) => `interface/${i.name}` === moving!.subject);
    const zone = board.rows[moving.row]?.name;
    const port = board.columns[moving.col]?.port;
    if (!iface || zone === undefined || port === undefined) return [];
    const toZone = zone !== NO_ZONE && zone !== iface.zone?.name;
    const toPort = port !== iface.ports[0];
    if (toZone && toPort) {
      const carrier = iface.statement.carrier?.ports[0];
      return changeClauses(session.site, iface.statement, [
        ...(carrier
          ? [{ do: 'replace' as const, start: carrier.at.start, end: carrier.at.end, text: port }]
          : []),
        { do: 'set', name: 'zone', text: `zone ${zone}` },
      ]);
    }
    return toZone
      ? moveToZone(session.site, iface, zone)
      : toPort
        ? moveToPort(session.site, iface, port)
        : [];
  });

  /** The statement as it would stand after the drop. */
  const movedText = $derived.by(() => {
    for (const change of movingChanges) {
      const document = session.site.documents.find((d) => d.file === change.file);
      const after = document && parseDocument(applyEdits(document.text, change.edits), change.file);
      const statement = after?.statements.find((s) => s.subject === moving?.subject);
      if (statement) return after!.text.slice(statement.start, statement.end).replace(/\s+/g, ' ');
    }
    return '';
  });

  function focusAt() {
    requestAnimationFrame(() => {
      const slabs = inCell(at.row, at.col);
      const key = slabs.length ? slabs[Math.min(at.slab, slabs.length - 1)]!.subject : `${at.row}/${at.col}`;
      grid?.querySelector<HTMLElement>(`[data-at="${key}"]`)?.focus();
    });
  }

  function go(dr: number, dc: number) {
    const slabs = inCell(at.row, at.col);
    if (dr !== 0 && slabs.length > 1) {
      const next = at.slab + dr;
      if (next >= 0 && next < slabs.length) {
        at = { ...at, slab: next };
        return focusAt();
      }
    }
    const row = Math.max(0, Math.min(board.rows.length - 1, at.row + dr));
    const col = Math.max(0, Math.min(board.columns.length - 1, at.col + dc));
    at = { row, col, slab: dr < 0 ? Math.max(0, inCell(row, col).length - 1) : 0 };
    focusAt();
  }

  const ARROWS: Record<string, readonly [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  };

  function onkeydown(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const arrow = ARROWS[event.key];
    if (arrow) {
      event.preventDefault();
      if (moving)
        moving = {
          ...moving,
          row: Math.max(0, Math.min(board.rows.length - 1, moving.row + arrow[0])),
          col: Math.max(0, Math.min(board.columns.length - 1, moving.col + arrow[1])),
        };
      else go(arrow[0], arrow[1]);
      return;
    }
    const slab = inCell(at.row, at.col)[at.slab];
    if (event.key === 'm' && slab && slab.draft !== 'removed') {
      moving = { subject: slab.subject, row: at.row, col: at.col };
    } else if (event.key === 'Escape' && moving) {
      event.stopPropagation();
      moving = undefined;
    } else if (event.key === 'Enter') {
      event.preventDefault();
      if (moving) drop();
      else if (slab) session.select(slab.subject);
      else startHere(at.row, at.col);
    }
  }

  function drop() {
    if (!moving) return;
    const { row, col, subject } = moving;
    if (movingChanges.length && session.apply(movingChanges, `move ${subject.replace('/', ' ')}`)) {
      at = { row, col, slab: 0 };
      focusAt();
    }
    moving = undefined;
  }

  /** Starts an interface at a crossing: the statement goes to the say line, to be read before it is written. */
  function startHere(row: number, col: number) {
    const zone = board.rows[row]?.name;
    const port = board.columns[col]?.port;
    if (!zone || port === undefined) return;
    const name = freeName(session.site, 'interface', zone);
    const taken = session.site.interfaces.some((i) => i.ports.includes(port) && i.tag === undefined);
    const tags = new Set(session.site.interfaces.filter((i) => i.ports.includes(port)).map((i) => i.tag));
    let tag: number | undefined;
    if (taken || tags.size > 0) for (tag = 10; tags.has(tag); tag += 10);
    session.saying = interfaceText(session.site, name, port, zone, tag);
  }

  function startZone() {
    session.saying = `zone ${freeName(session.site, 'zone', 'zone')}:`;
  }

  let dragged = $state<string | undefined>();
  function over(event: DragEvent, row: number, col: number) {
    if (!dragged) return;
    event.preventDefault();
    if (moving?.row !== row || moving.col !== col || moving.subject !== dragged)
      moving = { subject: dragged, row, col };
  }
</script>

<div class="min-w-full pb-6" data-testid="board">
  <!-- svelte-ignore a11y_interactive_supports_focus -->
  <div
    class="grid-board"
    style:grid-template-columns={template}
    role="grid"
    aria-label="Board: ports across, zones from the outside in"
    bind:this={grid}
    {onkeydown}
  >
    <div role="row" class="contents">
      <div class="corner quiet" role="columnheader">ports →<br />zones ↓<br />outermost first</div>
      {#each board.columns as column (column.port)}
        <PortHead {column} />
      {/each}
    </div>
    {#each board.rows as row, r (row.name)}
      <div role="row" class="contents">
        <div class="zone-head" role="rowheader">
          <span
            class={['texture', `texture-${row.texture}`]}
            style:--tint={`var(--tint-${row.tint})`}
            aria-hidden="true"
          ></span>
          <button
            class="text-start"
            onclick={() => row.zone && session.select(`zone/${row.name}`)}
            disabled={!row.zone}
          >
            <b class="name">{row.name === NO_ZONE ? 'no zone yet' : row.name}</b><br />
            <span class="quiet">{row.about}</span>
          </button>
        </div>
        {#each board.columns as column, c (column.port)}
          {@const slabs = inCell(r, c)}
          {@const target = moving && moving.row === r && moving.col === c}
          <div
            class={['cell', column.sliver && 'thin', target && 'target']}
            role="gridcell"
            tabindex={-1}
            ondragover={(e) => over(e, r, c)}
            ondrop={(e) => {
              e.preventDefault();
              e.stopPropagation();
              drop();
              dragged = undefined;
            }}
          >
            {#each slabs as slab, i (slab.subject)}
              <SlabCard
                {slab}
                {row}
                selected={session.selection.includes(slab.subject)}
                focusable={at.row === r && at.col === c && at.slab === i}
                onfocus={() => (at = { row: r, col: c, slab: i })}
                onopen={() => session.select(slab.subject)}
                ondrag={(on) => {
                  dragged = on ? slab.subject : undefined;
                  if (!on) moving = undefined;
                }}
              />
            {/each}
            {#if row.name !== NO_ZONE}
              <button
                class={['start', slabs.length && 'below']}
                data-at={slabs.length ? undefined : `${r}/${c}`}
                tabindex={!slabs.length && at.row === r && at.col === c ? 0 : -1}
                aria-label={`Start an interface in ${row.name} on ${column.port}`}
                title={`Start an interface in ${row.name} on ${column.port}`}
                onfocus={() => !slabs.length && (at = { row: r, col: c, slab: 0 })}
                onclick={() => startHere(r, c)}><span aria-hidden="true">+</span></button
              >
            {/if}
            {#if target && movingChanges.length}<p class="preview">drops here</p>{/if}
          </div>
        {/each}
      </div>
    {/each}
  </div>
  {#if !board.rows.length}
    <div class="p-6">
      <p class="mb-2 font-semibold">Nothing is written yet.</p>
      <p class="quiet">A board needs zones. Say one, or begin with First light from the site's name above.</p>
    </div>
  {/if}
  <div class="flex items-center gap-4 px-3 pt-3">
    <button class="btn btn-ghost btn-sm" onclick={startZone}>+ zone</button>
    {#if moving}
      <p class="panel px-3 py-1" role="status" data-testid="move-preview">
        {#if movingChanges.length}
          writes <span class="mono">{movedText}</span>
          · <span class="key">Enter</span> drops, <span class="key">Esc</span> lets go
        {:else}arrows choose a zone and a port{/if}
      </p>
    {/if}
  </div>
</div>

<style>
  .grid-board {
    display: grid;
    width: 100%;
    min-width: min-content;
  }
  .corner,
  .zone-head {
    position: sticky;
    left: 0;
    z-index: 2;
    background: var(--color-base-200);
    width: 128px;
  }
  .corner {
    top: 0;
    z-index: 4;
    padding: 8px 10px;
    font-size: 12px;
    line-height: 16px;
    border-bottom: 2px solid var(--color-base-300);
    height: 72px;
    box-sizing: border-box;
  }
  .zone-head {
    display: flex;
    gap: 10px;
    padding: 8px 8px 8px 0;
    background: var(--color-base-100);
    border-bottom: 1px solid var(--color-base-300);
    border-right: 1px solid var(--color-base-300);
    box-sizing: border-box;
  }
  .zone-head .texture {
    width: 8px;
    align-self: stretch;
    margin: -8px 0;
    flex: none;
  }
  .zone-head button {
    align-self: flex-start;
    overflow-wrap: anywhere;
  }
  .zone-head button:not(:disabled) {
    cursor: pointer;
  }
  .name {
    font-size: 14px;
    line-height: 18px;
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
  }
  .thin {
    padding: 0;
  }
  .target {
    box-shadow: inset 0 0 0 2px var(--color-primary);
    background: var(--color-accent);
  }
  .preview {
    color: var(--color-accent-content);
    font-weight: 600;
  }
  .start {
    flex: 1;
    min-height: 28px;
    border-radius: 4px;
    color: var(--quiet);
    opacity: 0;
    cursor: pointer;
  }
  /* Beside slabs it waits in the corner, so that nothing moves when the pointer comes. */
  .start.below {
    position: absolute;
    right: 4px;
    bottom: 0;
    flex: none;
    width: 20px;
    min-height: 0;
    height: 16px;
    line-height: 14px;
  }
  .cell:hover .start.below {
    opacity: 0.8;
  }
  .start:hover,
  .start:focus-visible {
    opacity: 1;
    background: var(--color-base-100);
  }
</style>
