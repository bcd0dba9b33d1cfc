<script lang="ts">
  import { faultKey } from '#core/proof/drills';
  import { bearerText, faultText } from '#words';
  import { useSession } from '../../session/index';
  // What a single fault kills with the draft and not with what runs; looked for once everything has rested.
  let { isPairs = false }: { isPairs?: boolean } = $props();
  const session = useSession();
  /** How long everything has rested before faults are tried, milliseconds. */
  const REST = 800;
  $effect(() => {
    if (session.proving || !session.derived) return;
    // Asked again with each text and each day.
    void [session.files, session.runningFiles, session.today];
    const pairs = isPairs;
    const timer = setTimeout(() => void session.lookAtFaults(pairs).catch(session.cannot), REST);
    return () => clearTimeout(timer);
  });
</script>

{#if session.faults.weaker.length}
  <ul class="ground-warning rounded p-2" aria-label="new weak points" data-testid="weak">
    {#each session.faults.weaker as w (faultKey(w.fault))}
      <li>
        ▲ with {faultText(w.fault)}, what runs goes on and the draft does not:
        {w.bearers.map(bearerText).join(', ')}
      </li>
    {/each}
  </ul>
{/if}
