<script lang="ts">
  import { GESTURE_LABELS, glossaryFor } from '#words';
  import { useSession } from '../../session/index';
  import { keysOf } from './keys';
  // The keys of this view, and the words of ours with the trade's, found by either.
  const session = useSession();
  let sieve = $state('');
  const groups = $derived(keysOf(session.nav.view));
  const entries = $derived(glossaryFor(sieve));
  let dialog = $state<HTMLDialogElement>();
  $effect(() => dialog?.showModal());
</script>

<dialog
  bind:this={dialog}
  class="m-auto max-h-[88vh] w-[60rem] max-w-[96vw] panel p-4 text-base-content shadow-xl"
  onclose={() => (session.nav.help = false)}
  onclick={(e) => e.target === dialog && dialog?.close()}
  aria-label="Keys and words"
>
  <div class="grid gap-6 min-[760px]:grid-cols-[22rem_1fr]">
    <section aria-label="Keys">
      {#each groups as { says, keys } (says)}
        <h2 class="mb-2 h2 not-first:mt-4">{says}</h2>
        <dl class="grid grid-cols-[7rem_1fr] gap-y-1.5">
          {#each keys as [key, what] (key)}
            <dt><span class="key">{key}</span></dt>
            <dd>{what}</dd>
          {/each}
        </dl>
      {/each}
    </section>
    <section aria-label="Words">
      <h2 class="mb-2 h2">Words, ours and the trade’s</h2>
      <input
        class="field mb-2"
        type="search"
        aria-label="Find a word"
        placeholder="port forwarding, reservation, WAN …"
        data-testid="glossary-sieve"
        spellcheck="false"
        bind:value={sieve}
      />
      <dl class="max-h-[58vh] space-y-2 overflow-auto pe-2" data-testid="glossary" aria-live="polite">
        {#each entries as e (e.word)}
          <div>
            <dt><b>{e.word}</b> <span class="quiet">{e.trade.join(', ')}</span></dt>
            <dd>
              {e.means}
              {#if e.want}<button
                  class="link text-primary"
                  onclick={() => {
                    session.nav.help = false;
                    session.nav.make(e.want!);
                  }}>{GESTURE_LABELS[e.want].says}</button
                >{/if}
            </dd>
          </div>
        {:else}<p class="quiet">
            No word of ours for that. Ask the say line (<span class="key">/</span>).
          </p>{/each}
      </dl>
    </section>
  </div>
  <form method="dialog" class="mt-4 text-end"><button class="btn btn-sm">Close</button></form>
</dialog>
