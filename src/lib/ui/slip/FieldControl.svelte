<script lang="ts">
  import {
    HEAD,
    addStatement,
    isFlag,
    joinChanges,
    nameFault,
    rowFrom,
    rowsOf,
    sayRows,
    zonePlace,
  } from '#core/edits';
  import type { Field, Row, Slot } from '#core/edits';
  import type { FileChange, Statement } from '#core/notation';
  import { fieldLabel, findingText, makingFaultText } from '#words';
  import { useSession } from '../../session/index';
  import RowControl from './Row.svelte';
  import { makingOf } from './making';
  // A field of a statement: yes or no, one row, or a list of rows that can be added, moved and taken away.
  let { statement, field }: { statement: Statement; field: Field } = $props();
  const session = useSession();
  const rows = $derived(rowsOf(statement, field));
  const label = $derived(fieldLabel(statement.kind, field));
  const id = $derived(`clause-${field.key}`);
  const ours = $derived(
    field.options.every((o) => o.clause === field.options[0]!.clause) && !['head', 'lead'].includes(field.key)
      ? field.options[0]!.clause
      : '',
  );
  let adding = $state(false);
  let why = $state('');
  let adder = $state<HTMLButtonElement>();

  function say(next: readonly Row[], besides: readonly FileChange[] = []): string {
    const tried = sayRows(session.site, statement, field, next);
    if (!tried.ok) return findingText(tried.fault);
    const { file, start, subject } = statement;
    const what = `${subject.replace('/', ' ')}: ${label.says}`;
    if (!session.apply(joinChanges(besides, tried.changes), what)) return session.notice;
    // Another head is another subject; the slip stays with its statement.
    if (field.options[0]!.clause === HEAD) {
      const now = session.subjectAt(file, start);
      if (now && now !== subject) session.nav.select(now);
    }
    return '';
  }
  const at = (i: number, row: Row | undefined): Row[] =>
    row ? [...rows.slice(0, i), row, ...rows.slice(i + 1)] : rows.filter((_, n) => n !== i);
  const sayAt = (i: number) => (row: Row | undefined) => say(at(i, row));
  const makeAt = (i: number) => (slot: Slot, name: string, row: Row) => {
    const kind = makingOf(slot.takes)!;
    const fault = nameFault(session.site, kind, name);
    if (fault) return makingFaultText(fault);
    const made = addStatement(
      session.site,
      kind,
      `${kind} ${name}:`,
      kind === 'zone' ? zonePlace(session.site, 'inside') : {},
    );
    return say(at(i, row), made);
  };
  function move(i: number, by: number) {
    const next = [...rows];
    const [row] = next.splice(i, 1);
    next.splice(i + by, 0, row!);
    why = say(next);
  }
</script>

{#if isFlag(field)}
  <label class="col-span-2 flex items-baseline gap-2" title={label.about} data-about={label.about}>
    <input
      type="checkbox"
      class="checkbox self-center checkbox-xs"
      data-testid={id}
      checked={rows.length > 0}
      onchange={(e) => (why = say(e.currentTarget.checked ? [rowFrom(field, field.options[0]!, {})!] : []))}
    />
    <span>{label.says}</span>{#if ours}<span class="ours">{ours}</span>{/if}
    {#if why}<span class="text-error">{why}</span>{/if}
  </label>
{:else if field.repeats}
  <fieldset class="col-span-2 min-w-0" data-about={label.about}>
    <legend class="flex w-full items-baseline gap-2" title={label.about}>
      <span>{label.says}</span>{#if ours}<span class="ours">{ours}</span>{/if}
      <button
        bind:this={adder}
        class="btn ms-auto h-6 min-h-0 px-1.5 btn-ghost btn-xs"
        data-testid={`${id}-add`}
        aria-label={`add to ${label.says}`}
        aria-expanded={adding}
        onclick={() => (adding = !adding)}>+ add</button
      >
    </legend>
    <ol class="space-y-1">
      {#each rows as row, i (i)}
        <li class="flex items-start gap-1" data-testid={`${id}-row`}>
          <div class="min-w-0 flex-1">
            <RowControl {statement} {field} {row} id={`${id}-${i}`} onsay={sayAt(i)} onmake={makeAt(i)} />
          </div>
          <span class="flex flex-none">
            {#if rows.length > 1}
              <button
                class="tool"
                aria-label={`${row.text} further up`}
                disabled={i === 0}
                onclick={() => move(i, -1)}>↑</button
              ><button
                class="tool"
                aria-label={`${row.text} further down`}
                disabled={i === rows.length - 1}
                onclick={() => move(i, 1)}>↓</button
              >
            {/if}
            <button
              class="tool"
              aria-label={`take ${row.text} away`}
              data-testid={`${id}-${i}-remove`}
              onclick={() => (why = say(at(i, undefined)))}>✕</button
            >
          </span>
        </li>
      {/each}
      {#if adding}
        <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
        <li
          class="rounded border border-dashed border-base-300 p-1"
          onkeydown={(e) => {
            if (e.key !== 'Escape') return;
            e.stopPropagation();
            adding = false;
            adder?.focus();
          }}
        >
          <RowControl
            {statement}
            {field}
            id={`${id}-new`}
            onsay={(row) => (row ? say([...rows, row]) : '')}
            onmake={(slot, name, row) => makeAt(rows.length)(slot, name, row)}
            onlet={() => {
              adding = false;
              adder?.focus();
            }}
          />
        </li>
      {/if}
    </ol>
    {#if why}<p class="text-error" role="alert">{why}</p>{/if}
  </fieldset>
{:else}
  <label for={id} class="pt-1" title={label.about} data-about={label.about}
    ><span>{label.says}</span>{#if ours && ours !== label.says.toLowerCase()}<br /><span class="ours"
        >{ours}</span
      >{/if}</label
  >
  <div class="min-w-0" data-about={label.about}>
    {#each rows.length ? rows : [undefined] as row, i (i)}
      <RowControl
        {statement}
        {field}
        {row}
        {id}
        onsay={row ? sayAt(i) : (r) => (r ? say([r]) : '')}
        onmake={makeAt(i)}
      />
    {/each}
    {#if why}<p class="text-error">{why}</p>{/if}
  </div>
{/if}

<style>
  .ours {
    font: 500 0.75rem/1rem var(--font-mono);
    color: var(--quiet);
  }
  .tool {
    width: 20px;
    height: 26px;
    cursor: pointer;
    border-radius: 4px;
  }
  .tool:disabled {
    opacity: 0.35;
    cursor: default;
  }
</style>
