<script lang="ts">
  import { findingText, mendText } from '#words';
  import type { FindingView } from '../../session/index';
  import { useSession } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';
  const session = useSession();
  const weights = ['error', 'warning', 'advice'] as const;
  const heads = {
    error: 'Will not work, or is dangerous',
    warning: 'Works, but likely not as meant',
    advice: 'Could be better',
  };
  function show(f: FindingView) {
    session.nav.select(f.subject);
    if (session.nav.view === 'change' || session.nav.view === 'proof') session.nav.view = 'board';
  }
</script>

<aside class="panel finds" aria-label="findings" data-testid="findings">
  <div class="mb-2 flex items-center">
    <h2 class="h2">Findings</h2>
    <button
      class="btn ms-auto px-2 btn-ghost btn-sm"
      aria-label="Close"
      onclick={() => (session.nav.drawer = false)}>✕</button
    >
  </div>
  {#if !session.findings.length}<p class="quiet">Nothing to find fault with.</p>{/if}
  {#each weights as weight (weight)}
    {@const list = session.findings.filter((f) => f.severity === weight)}
    {#if list.length}
      <h3 class="mt-3 mb-1 font-semibold">
        <Weight severity={weight} count={list.length} /> · {heads[weight]}
      </h3>
      <ul class="space-y-2">
        {#each list as f, n (n)}
          <li class={['rounded p-2', `ground-${weight}`]}>
            <button class="text-start hover:underline" onclick={() => show(f)}>
              <b>{f.subject.replace('/', ' ')}</b>
              <span class="quiet">line {f.at.line}</span>
            </button>
            <p>{findingText(f)}</p>
            {#if session.typing === f.subject}<p class="quiet">before this edit</p>{/if}
            {#each f.mends as mend, i (i)}
              <button
                class="link block text-start text-primary"
                data-testid={`mend-${f.code}`}
                onclick={() => session.mend(f, i, mendText(mend))}>{mendText(mend)}</button
              >
            {/each}
          </li>
        {/each}
      </ul>
    {/if}
  {/each}
</aside>

<style>
  .finds {
    position: relative;
    width: 340px;
    flex: none;
    overflow: auto;
    padding: 12px;
    border-width: 0 0 0 1px;
    border-radius: 0;
  }
</style>
