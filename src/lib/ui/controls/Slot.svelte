<script lang="ts">
  import { fromTrade, isChosen } from '#core/edits';
  import type { Slot } from '#core/edits';
  // One value. It is taken on Enter or on leaving; Escape gives back what was there. Nothing half-typed acts.
  let {
    id,
    label,
    slot,
    value,
    offers = [],
    kinds = [],
    disabled = false,
    invalid = false,
    describedby,
    placeholder = '',
    testid,
    oncommit,
    onenter,
    onmake,
  }: {
    id: string;
    label: string;
    slot: Slot;
    value: string;
    offers?: readonly string[];
    /** What each offer is called, where that is more than itself. */
    kinds?: readonly string[];
    disabled?: boolean;
    invalid?: boolean;
    describedby?: string;
    placeholder?: string;
    testid?: string;
    oncommit: (value: string) => void;
    /** Enter was pressed, after the value was taken. */
    onenter?: () => void;
    /** Makes a new thing of the name, to be chosen here. */
    onmake?: (name: string) => string | undefined;
  } = $props();
  const NEW = '\u0000new';
  /** More than anybody reads; typing finds the rest by its name. */
  const MOST_OFFERED = 200;
  let draft = $state<string | undefined>();
  let naming = $state<string | undefined>();
  let nameFault = $state('');
  /** Whether the keyboard is about: then a list is walked through before one is taken. */
  let keyed = false;
  const shown = $derived(draft ?? value);
  const chosen = $derived(isChosen(slot));
  /** A zone and an interface may share a name, and are then one word here. */
  const unique = $derived([...new Set(offers)]);
  const listed = $derived(unique.includes(shown) || shown === '' ? unique : [shown, ...unique]);
  let shows = $state(false);

  function take() {
    if (draft === undefined) return;
    const next = chosen ? draft : fromTrade(slot, draft);
    draft = undefined;
    if (next !== value) oncommit(next);
  }
  function onkeydown(event: KeyboardEvent) {
    keyed = event.key !== 'Tab';
    if (event.key === 'Enter') {
      event.preventDefault();
      take();
      onenter?.();
    } else if (event.key === 'Escape' && draft !== undefined) {
      event.stopPropagation();
      draft = undefined;
    }
  }
  function choose(next: string) {
    if (next === NEW) {
      draft = undefined;
      naming = '';
      return;
    }
    draft = next;
    if (!keyed) take();
  }
  function makeIt() {
    if (naming === undefined) return;
    const why = naming.trim() === '' ? undefined : onmake?.(naming.trim());
    if (why) nameFault = why;
    else {
      naming = undefined;
      nameFault = '';
    }
  }
</script>

{#if slot.takes === 'flag'}
  <label class="flex items-center gap-1.5 self-center">
    <input
      {id}
      type="checkbox"
      class="checkbox checkbox-xs"
      data-testid={testid}
      checked={value !== ''}
      {disabled}
      onchange={(e) => oncommit(e.currentTarget.checked ? (slot.lead ?? slot.key) : '')}
    />
    <span class="quiet">{label}</span>
  </label>
{:else if naming !== undefined}
  <span class="block min-w-0">
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="field mono text-[12px]"
      aria-label={`name of the new ${slot.takes}`}
      placeholder={`name of the new ${slot.takes}`}
      data-testid={testid ? `${testid}-name` : undefined}
      aria-invalid={nameFault !== ''}
      spellcheck="false"
      autofocus
      bind:value={naming}
      onblur={makeIt}
      onkeydown={(e) => {
        if (e.key === 'Enter') {
          e.preventDefault();
          makeIt();
        } else if (e.key === 'Escape') {
          e.stopPropagation();
          naming = undefined;
          nameFault = '';
        }
      }}
    />
    {#if nameFault}<span class="text-error">{nameFault}</span>{/if}
  </span>
{:else if chosen}
  <select
    {id}
    class="field mono text-[12px]"
    aria-label={label}
    title={label}
    data-testid={testid}
    aria-invalid={invalid}
    aria-describedby={describedby}
    {disabled}
    value={shown}
    onpointerdown={() => (keyed = false)}
    onchange={(e) => choose(e.currentTarget.value)}
    onblur={take}
    {onkeydown}
  >
    {#if slot.may || shown === ''}<option value="">{slot.may ? '—' : `${label} …`}</option>{/if}
    {#each listed as o, i (o)}<option value={o}>{kinds[i] ?? o}</option>{/each}
    {#if onmake}<option value={NEW}>new {slot.takes} …</option>{/if}
  </select>
{:else}
  <span class="relative block min-w-0">
    <input
      {id}
      class={['field text-[12px]', slot.takes !== 'text' && 'mono', slot.takes === 'secret' && 'pe-10']}
      type={slot.takes === 'secret' && !shows ? 'password' : 'text'}
      aria-label={label}
      title={shown === '' || slot.takes === 'secret' ? label : `${label}: ${shown}`}
      data-testid={testid}
      list={offers.length ? `${id}-offers` : undefined}
      spellcheck="false"
      autocomplete="off"
      placeholder={placeholder || label}
      aria-invalid={invalid}
      aria-describedby={describedby}
      {disabled}
      value={shown}
      oninput={(e) => (draft = e.currentTarget.value)}
      onblur={take}
      {onkeydown}
    />
    {#if slot.takes === 'secret'}
      <button
        type="button"
        class="btn absolute end-0.5 top-0.5 h-5 min-h-0 px-1 btn-ghost btn-xs"
        aria-label={shows ? `hide ${label}` : `show ${label}`}
        onclick={() => (shows = !shows)}>{shows ? 'hide' : 'show'}</button
      >
    {/if}
    {#if offers.length}
      <datalist id={`${id}-offers`}
        >{#each unique.slice(0, MOST_OFFERED) as o, i (o)}<option value={o}>{kinds[i] ?? ''}</option
          >{/each}</datalist
      >
    {/if}
  </span>
{/if}
