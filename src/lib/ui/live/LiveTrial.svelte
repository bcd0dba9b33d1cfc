<script lang="ts">
  import { trialOverText } from '#words';
  import { useSession } from '../../session/index';
  // Beside a trial on a live box: who gets in by a new connection, and what the box itself sees of its uplinks.
  const session = useSession();
  const live = $derived(session.live);
  // How long ago the box told of itself, seconds: what it counted then has gone on.
  const age = $derived(live?.sight ? (session.now - live.seenAt) / 1000 : 0);
  const resort = $derived(live?.sight?.box.trial?.resort);
  const since = $derived(live?.lost ? Math.round((session.now - live.lost.since) / 1000) : 0);
</script>

{#if live && session.isLive}
  {#if session.isTheirTrial}
    <p class="mb-2 font-semibold" data-testid="their-trial">
      ▲ Somebody else began this trial. It is theirs to stay with; what they changed stands on the left.
    </p>
  {/if}
  {#if session.isTrialOver}
    <p
      class={['mb-2 rounded p-2', live.lost ? 'ground-error' : 'bg-base-200']}
      role="alert"
      data-testid="trial-over"
    >
      {trialOverText(!!live.lost, resort === undefined ? undefined : Math.round(resort - age), new Date())}
    </p>
  {:else if live.lost}
    <p class="ground-error mb-2 rounded p-2" role="alert" data-testid="live-lost">
      ✕ No answer from {live.place} for {since} s: {live.lost.text}. It is looked for on and on, at its old
      and its new address. Do at the desk what the crossing says, and this page goes on from there; do
      nothing, and the box goes back by itself.
    </p>
  {/if}
  <ul class="mb-2" data-testid="knocks">
    {#each live.knocks.filter((k) => !live.lost || !k.answers) as k (k.at)}
      <li>
        {k.answers ? '✓' : '✕'} <span class="mono">{k.at}</span>
        {k.answers ? 'lets a new connection in' : 'lets no new connection in'}
      </li>
    {/each}
  </ul>
{/if}
