<script lang="ts">
  import { gestureAt } from '#core/edits';
  import { maskSecrets } from '#core/notation';
  import { GESTURE_LABELS, askLabel, makingFaultText, pickLabel } from '#words';
  import { useSession } from '../../session/index';
  import type { Want } from '../../session/index';
  import Slot from '../controls/Slot.svelte';
  import Outcome from './Outcome.svelte';
  import type { Values } from '#core/edits';
  // What is wanted, asked in a few fields that its place has filled in; the text that it writes stands beneath.
  let { want }: { want: Want & { readonly put: Values } } = $props();
  const session = useSession();
  const now = $derived(gestureAt(want.id, session.model, want.place, want.put));
  const made = $derived(now.made);
  const said = $derived(GESTURE_LABELS[want.id]);
  /** What is missing is told only once somebody tried to write it, or has been at that field. */
  let tried = $state(false);
  const fault = $derived(made.ok ? undefined : made);
  const told = $derived(
    fault && (tried || fault.why.what !== 'needed') ? makingFaultText(fault.why) : undefined,
  );
  const put = (key: string, value: string) =>
    (session.nav.making = { ...want, put: { ...want.put, [key]: value } });
  let form = $state<HTMLFormElement>();
  function close() {
    session.nav.making = undefined;
  }
  function write() {
    tried = true;
    // What is written is held on to: once the form is let go, there is nothing to ask any more.
    const done = made;
    if (!done.ok) {
      if (done.ask) form?.querySelector<HTMLElement>(`#making-${CSS.escape(done.ask)}`)?.focus();
      return;
    }
    const label = `${said.says.toLowerCase()}: ${done.statements[0]?.split(':')[0] ?? ''}`;
    if (!session.apply(done.changes, label)) return;
    const zone = done.statements.map((t) => /^zone ([a-z][a-z0-9-]*):/.exec(t)?.[1]).find((z) => z);
    close();
    if (zone) session.nav.newZone = zone;
    session.nav.select(done.subject);
  }
  // The first field has the keyboard as soon as the form is there.
  $effect(() => {
    form?.querySelector<HTMLElement>('input, select')?.focus();
  });
  function onkeydown(event: KeyboardEvent) {
    if (event.key === 'Escape') {
      event.stopPropagation();
      close();
    } else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      write();
    }
  }
</script>

<aside class="maker panel" aria-labelledby="making-head" data-testid="maker">
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <form
    bind:this={form}
    novalidate
    {onkeydown}
    onsubmit={(e) => {
      e.preventDefault();
      write();
    }}
  >
    <div class="mb-1 flex items-baseline gap-2">
      <h2 class="h2" id="making-head">{said.says}</h2>
      <button type="button" class="btn ms-auto px-2 btn-ghost btn-sm" aria-label="Close" onclick={close}
        >✕</button
      >
    </div>
    {#if said.about}<p class="mb-2 quiet">{said.about}</p>{/if}
    <div class="grid grid-cols-[7.5rem_1fr] items-center gap-x-2 gap-y-1.5">
      {#each now.asks as asked (asked.slot.key)}
        {@const key = asked.slot.key}
        {@const wrong = told !== undefined && fault?.ask === key}
        {@const label = askLabel(want.id, key)}
        {#if asked.slot.takes === 'flag'}<span></span>{:else}
          <label for={`making-${key}`}>{label}</label>
        {/if}
        <div class="min-w-0">
          <Slot
            id={`making-${key}`}
            testid={`making-${key}`}
            {label}
            slot={asked.slot}
            value={now.values[key] ?? ''}
            offers={asked.offers ?? []}
            kinds={asked.said ? asked.offers?.map((o) => pickLabel(want.id, key, o)) : []}
            placeholder={asked.slot.may ? 'optional' : ''}
            invalid={wrong}
            describedby={wrong ? 'making-why' : undefined}
            oncommit={(v) => put(key, v)}
            onenter={write}
          />
          {#if wrong}<p id="making-why" class="text-error" role="alert">{told}</p>{/if}
        </div>
      {/each}
    </div>
    {#if told && !now.asks.some((a) => a.slot.key === fault?.ask)}<p class="mt-2 text-error" role="alert">
        {told}
      </p>{/if}
    <button class="btn mt-3 btn-sm btn-primary" data-testid="making-write">Write it</button>
    <span class="ms-2 quiet"><span class="key">Enter</span> · <span class="key">Esc</span> lets it go</span>
    {#if made.ok}
      <p class="mt-3 mb-1 quiet">This will be written</p>
      <pre
        class="mono rounded border border-base-300 bg-base-200 p-2 text-[12px] leading-[18px] whitespace-pre-wrap"
        data-testid="making-text">{maskSecrets(made.statements.join('\n'))}</pre>
    {/if}
    <div class="mt-2" aria-live="polite">
      <Outcome changes={made.ok ? made.changes : undefined} />
    </div>
  </form>
</aside>

<style>
  .maker {
    position: relative;
    width: min(360px, 46vw);
    flex: none;
    overflow: auto;
    padding: 12px;
    border-width: 0 0 0 1px;
    border-radius: 0;
  }
</style>
