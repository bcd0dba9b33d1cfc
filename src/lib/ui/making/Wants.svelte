<script lang="ts">
  import { GESTURE_LABELS, wantsFor } from '#words';
  import { useSession } from '../../session/index';
  import type { Want } from '../../session/index';
  import { allWants } from './wants';
  // The list of what can be wanted, what fits the selected thing first. Letters sift it by either language.
  const session = useSession();
  const subject = session.nav.wanting?.subject;
  const lists = $derived(allWants(session.site, subject));
  let sieve = $state('');
  let at = $state(0);
  let dialog = $state<HTMLDialogElement>();
  const MOST_FOUND = 12;
  const ranked = $derived(wantsFor(sieve, MOST_FOUND));
  /** What the words find, the likeliest first; everything where nothing is looked for. */
  const found = (list: readonly Want[]): readonly Want[] =>
    sieve.trim() === '' ? list : ranked.flatMap((id) => list.filter((w) => w.id === id));
  const here = $derived(found(lists.here));
  const rest = $derived(found(lists.rest));
  const all = $derived([...here, ...rest]);
  $effect(() => dialog?.showModal());
  function onkeydown(event: KeyboardEvent) {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const want = all[at];
    if (step && all.length) {
      event.preventDefault();
      at = (at + step + all.length) % all.length;
      dialog?.querySelector(`#want-${at}`)?.scrollIntoView({ block: 'nearest' });
    } else if (event.key === 'Enter' && want) {
      event.preventDefault();
      session.nav.make(want.id, want.place);
    }
  }
</script>

{#snippet item(want: Want, i: number)}
  <li role="none">
    <button
      id={`want-${i}`}
      role="option"
      tabindex="-1"
      class={['w-full rounded px-2 py-1 text-start', i === at && 'bg-accent text-accent-content']}
      aria-selected={i === at}
      data-testid={`want-${want.id}`}
      onpointermove={() => (at = i)}
      onclick={() => session.nav.make(want.id, want.place)}
      ><b class="font-medium">{GESTURE_LABELS[want.id].says}</b>
      <span class="block quiet">{GESTURE_LABELS[want.id].about}</span></button
    >
  </li>
{/snippet}

<dialog
  bind:this={dialog}
  class="panel m-auto w-[34rem] max-w-[94vw] p-3 text-base-content shadow-xl"
  aria-label="What do you want?"
  onclose={() => (session.nav.wanting = undefined)}
  onclick={(e) => e.target === dialog && dialog?.close()}
>
  <input
    class="field mb-2"
    role="combobox"
    aria-expanded="true"
    aria-controls="wants"
    aria-activedescendant={all[at] ? `want-${at}` : undefined}
    aria-label="What do you want?"
    placeholder="What do you want? Port forwarding, VLAN, reservation …"
    spellcheck="false"
    autocomplete="off"
    data-testid="wants-sieve"
    bind:value={sieve}
    oninput={() => (at = 0)}
    {onkeydown}
  />
  <ul id="wants" role="listbox" aria-label="wants" class="max-h-[60vh] overflow-auto">
    {#if here.length}<li role="presentation" class="px-2 pt-1 quiet">
        for {subject?.replace('/', ' ')}
      </li>{/if}
    {#each here as want, i (want.id)}{@render item(want, i)}{/each}
    {#if rest.length}<li role="presentation" class="px-2 pt-2 quiet">
        {here.length ? 'everything else' : 'make something'}
      </li>{/if}
    {#each rest as want, i (want.id)}{@render item(want, here.length + i)}{/each}
    {#if !all.length}<li role="presentation" class="px-2 py-1 quiet">
        nothing of that name; the say line (<span class="key">/</span>) takes questions too
      </li>{/if}
  </ul>
</dialog>
