<script lang="ts">
  import { lacking, rowFrom, slotOffers, slotsOf } from '#core/edits';
  import type { Field, Option, Row, Slot, Values } from '#core/edits';
  import type { Statement } from '#core/notation';
  import { fieldLabel, optionLabel, slotLabel } from '#words';
  import { useSession } from '../../session/index';
  import SlotControl from '../controls/Slot.svelte';
  import { makingOf } from './making';
  // One row of a field: the way in which it is said, and its values. What is not whole yet, or cannot be read, stays.
  let {
    statement,
    field,
    row,
    id,
    onsay,
    onmake,
    onlet,
  }: {
    statement: Statement;
    field: Field;
    /** Absent for a row that is being made. */
    row?: Row;
    id: string;
    /** Says the row, or nothing in its place; answers why it cannot. */
    onsay: (row: Row | undefined) => string;
    /** Says the row with a new thing that it names. */
    onmake: (slot: Slot, name: string, row: Row) => string;
    /** A row that is being made is let go. */
    onlet?: () => void;
  } = $props();
  const session = useSession();
  let held = $state.raw<{ readonly option?: Option; readonly values: Values } | undefined>();
  let why = $state('');
  const only = $derived(field.options.length === 1 ? field.options[0] : undefined);
  const option = $derived(held ? held.option : (row?.option ?? only));
  const values = $derived(held?.values ?? row?.values ?? {});
  let asksRare = $state(false);
  const all = $derived(option ? slotsOf(option) : []);
  const slots = $derived(all.filter((s) => !s.rare || asksRare || values[s.key]));
  const missing = $derived(option && held ? lacking(option, values) : []);
  const raw = $derived(row && !row.option && !held);
  const kind = $derived(statement.kind);

  /** Says it where it is whole; else it waits, and tells for what once somebody leaves it. */
  function attempt(next: Option | undefined, filled: Values) {
    why = '';
    const needed = next ? lacking(next, filled) : [];
    const isBare = !!next && needed.length > 0 && slotsOf(next).every((s) => !filled[s.key]?.trim());
    if (!next || (isBare && row && only)) {
      held = undefined;
      const fault = row ? onsay(undefined) : '';
      if (fault) why = fault;
      return;
    }
    const made = rowFrom(field, next, filled);
    held = { option: next, values: filled };
    if (!made) return;
    why = onsay(row?.clause === undefined ? made : { ...made, clause: row.clause });
    if (!why) {
      held = undefined;
      if (!row) onlet?.();
    }
  }
  function fill(slot: Slot, value: string) {
    const filled = { ...values, [slot.key]: value };
    // A row that is being made waits for Enter, or for being left: its last values may be free to stay empty.
    if (row || !field.repeats) attempt(option, filled);
    else held = { option, values: filled };
  }
  function choose(key: string) {
    const next = field.options.find((o) => o.key === key);
    if (row || !field.repeats) attempt(next, values);
    else held = { option: next, values };
  }
  function make(slot: Slot, name: string): string | undefined {
    const made = option && rowFrom(field, option, { ...values, [slot.key]: name });
    return made ? onmake(slot, name, made) || undefined : 'fill in the rest first';
  }
  function left(event: FocusEvent & { currentTarget: HTMLElement }) {
    const inside = event.relatedTarget instanceof Node && event.currentTarget.contains(event.relatedTarget);
    if (inside || row || !held || why) return;
    if (Object.values(held.values).some((v) => v.trim() !== '')) attempt(held.option, held.values);
  }
</script>

<div class="min-w-0" onfocusout={left}>
  {#if raw}
    <p class="mono text-[12px] text-error" title="It cannot be shown as fields; mend it in the text beneath">
      {row?.text}
    </p>
  {:else}
    <div class={['grid gap-1', slots.length > 2 && 'grid-cols-2', slots.length === 2 && 'grid-cols-2']}>
      {#if field.options.length > 1}
        <select
          {id}
          class={['field text-[12px]', slots.length > 1 && 'col-span-2']}
          aria-label={fieldLabel(kind, field).says}
          data-testid={id}
          value={option?.key ?? ''}
          onchange={(e) => choose(e.currentTarget.value)}
        >
          {#if !field.repeats || !option}<option value="">—</option>{/if}
          {#each field.options as o (o.key)}<option value={o.key}>{optionLabel(field, o)}</option>{/each}
        </select>
      {/if}
      {#each slots as slot, i (slot.key)}
        <SlotControl
          id={field.options.length === 1 && i === 0 ? id : `${id}-${slot.key}`}
          testid={field.options.length === 1 && i === 0 ? id : `${id}-${slot.key}`}
          label={slotLabel(kind, field, slot)}
          {slot}
          value={values[slot.key] ?? ''}
          offers={slotOffers(session.model, statement, field, slot)}
          invalid={why !== '' || (missing.includes(slot) && !!row)}
          describedby={why ? `${id}-why` : undefined}
          oncommit={(v) => fill(slot, v)}
          onenter={() => !row && field.repeats && held && attempt(held.option, held.values)}
          onmake={makingOf(slot.takes) ? (name) => make(slot, name) : undefined}
        />
      {/each}
      {#if slots.length < all.length}
        <button class="link justify-self-start text-[12px] quiet" onclick={() => (asksRare = true)}
          >+ {all
            .filter((s) => !slots.includes(s))
            .map((s) => slotLabel(kind, field, s))
            .join(', ')}</button
        >
      {/if}
    </div>
  {/if}
  {#if why}
    <p id={`${id}-why`} class="text-error" role="alert">
      {why}
      <button
        class="link"
        onclick={() => {
          held = undefined;
          why = '';
        }}>give back</button
      >
    </p>
  {:else if missing.length && held && Object.values(values).some((v) => v)}
    <p class="quiet">waits for {missing.map((s) => slotLabel(kind, field, s)).join(', ')}</p>
  {/if}
</div>
