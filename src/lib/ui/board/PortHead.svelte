<script lang="ts">
  import { useSession } from '../../session/index';
  import TagRuler from './TagRuler.svelte';
  import { NO_PORT } from './model';
  import type { Column } from './model';
  let {
    column,
    focusable,
    target,
    onfocus,
    ondrag,
    onplug,
    ondropat,
    style,
  }: {
    column: Column;
    focusable: boolean;
    target: boolean;
    onfocus: () => void;
    /** The port itself is carried, to be bridged. */
    ondrag: (on: boolean) => void;
    /** What is plugged in is carried, to be plugged in elsewhere. */
    onplug: (subject: string, tag: number | undefined, on: boolean) => void;
    ondropat: (event: DragEvent, drop: boolean) => void;
    style: string;
  } = $props();
  const session = useSession();
  // The lamp is a shape: full with light, hollow without, crossed when off.
  const lamp = $derived({ up: '■', down: '□', off: '⊠', none: '□' }[column.light]);
  const word = $derived({ up: 'light', down: 'no light', off: 'off', none: 'no cable' }[column.light]);
  const cut = $derived(session.drill.cut.includes(column.port));
  const unclaimed = $derived(
    (session.derived?.draft.unclaimed ?? []).filter(
      (u) => u.where === column.port || u.where.startsWith(`${column.port} tag `),
    ),
  );
  /** The statement of the port, made where it has none; what is plugged in where it is asked for. */
  function open() {
    const subject = `port/${column.port}`;
    if (session.statementOf(subject)) session.nav.select(subject);
    else if (column.plugged[0]) session.nav.select(column.plugged[0].subject);
    else session.nav.make('port', { port: column.port });
  }
</script>

<!-- svelte-ignore a11y_interactive_supports_focus -->
<div
  class={['port', column.sliver && 'sliver', target && 'target']}
  role="columnheader"
  aria-label={`${column.port || 'no port'}, ${word}, ${column.farEnd}`}
  {style}
  ondragover={(e) => ondropat(e, false)}
  ondrop={(e) => ondropat(e, true)}
>
  {#if column.port === NO_PORT}
    <b class="name">no port</b>
  {:else if column.sliver}
    <button
      class="mono block w-full cursor-pointer"
      title={`${column.port}: ${word}, ${column.farEnd}`}
      data-at={`head/${column.port}`}
      data-testid={`port-${column.port}`}
      tabindex={focusable ? 0 : -1}
      draggable="true"
      ondragstart={() => ondrag(true)}
      ondragend={() => ondrag(false)}
      {onfocus}
      onclick={open}
    >
      <span aria-hidden="true">{lamp}</span><br />{column.port.replace(/^p(?=\d)/, '')}
    </button>
    {#if column.plugged.length}
      <button
        class="block w-full cursor-grab"
        title={column.farEnd}
        aria-label={column.farEnd}
        tabindex={-1}
        draggable="true"
        ondragstart={() => onplug(column.plugged[0]!.subject, column.plugged[0]!.tag, true)}
        ondragend={() => onplug(column.plugged[0]!.subject, undefined, false)}
        onclick={() => session.nav.select(column.plugged[0]!.subject)}>⌁</button
      >
    {/if}
  {:else}
    <div class="flex min-w-0 items-baseline gap-1.5 whitespace-nowrap">
      <span aria-hidden="true">{lamp}</span>
      <button
        class="name cursor-pointer"
        data-at={`head/${column.port}`}
        data-testid={`port-${column.port}`}
        tabindex={focusable ? 0 : -1}
        title="Enter opens it, m re-plugs its cable, c cuts it on the bench; drag it onto a slab to bridge"
        draggable="true"
        ondragstart={() => ondrag(true)}
        ondragend={() => ondrag(false)}
        {onfocus}
        onclick={open}>{column.port}</button
      >
      <span class="quiet">{column.speed}</span>
      {#if column.tags.length > 1}<span class="min-w-0 truncate quiet" title={`${column.tags.length} tags`}
          >{column.tags.length} tags</span
        >{/if}
      {#if unclaimed.length}
        <span
          class="text-warning"
          title={unclaimed
            .map((u) => `${u.frames} frames arrived on ${u.where}, and no interface takes them`)
            .join('\n')}>▲ stray</span
        >
      {/if}
      <button
        class="btn ms-auto h-5 min-h-0 px-1 btn-ghost btn-xs"
        title={`What do you want on ${column.port}? A network, an uplink, a management port (a)`}
        aria-label={`add on ${column.port}`}
        data-testid={`add-${column.port}`}
        tabindex={-1}
        onclick={() => session.nav.want(`port/${column.port}`)}>+</button
      >
      <button
        class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
        title={cut ? 'Put the cable back (drill, c)' : 'Pull this cable on the bench (drill, c)'}
        tabindex={-1}
        data-testid={`cut-${column.port}`}
        onclick={() => session.toggleCut(column.port)}>{cut ? 'restore' : 'cut'}</button
      >
    </div>
    <div class="truncate" title={column.label}>{column.label || '\u00a0'}</div>
    <div class="flex min-w-0 gap-1 quiet" title={column.farEnd}>
      <span aria-hidden="true">{column.light === 'up' ? '—' : '–×–'}</span>
      {#if cut}cut (drill)
      {:else if column.plugged.length}
        {#each column.plugged as plug (plug.subject)}
          <button
            class="min-w-0 cursor-grab truncate hover:underline"
            data-testid={`plug-${plug.subject.split('/')[1]}`}
            tabindex={-1}
            draggable="true"
            ondragstart={() => onplug(plug.subject, plug.tag, true)}
            ondragend={() => onplug(plug.subject, plug.tag, false)}
            onclick={() => session.nav.select(plug.subject)}>{plug.text}</button
          >
        {/each}
      {:else}<span class="truncate">{column.farEnd}</span>{/if}
    </div>
    {#if column.tags.length > 3}<TagRuler tags={column.tags} />{/if}
  {/if}
</div>

<style>
  .port {
    position: sticky;
    top: 0;
    z-index: 3;
    height: 72px;
    box-sizing: border-box;
    padding: 8px 10px;
    background: var(--color-base-100);
    border-bottom: 2px solid var(--color-base-300);
    border-right: 1px solid var(--color-base-300);
    min-width: 0;
    line-height: 18px;
  }
  .sliver {
    padding: 8px 2px;
    text-align: center;
    color: var(--quiet);
  }
  .target {
    box-shadow: inset 0 0 0 2px var(--color-primary);
    background: var(--color-accent);
  }
  .name {
    font-size: 14px;
    font-weight: 650;
  }
</style>
