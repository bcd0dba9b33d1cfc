<script lang="ts">
  import { REFUSALS } from '#words';
  import { useSession } from '../../session/index';
  import LiveRungs from '../live/LiveRungs.svelte';
  import LiveTrial from '../live/LiveTrial.svelte';
  import Refused from '../live/Refused.svelte';
  import {
    deskGroups,
    desksSentence,
    firstFail,
    ladderName,
    ladderSentence,
    worsened,
  } from '../ladder/ladders';
  // A running trial: how long it has, what the running box reaches, and the two ways to end it.
  const session = useSession();
  let refused = $state('');
  const seat = $derived(session.derived?.seat);
  const proof = $derived(session.derived?.running ?? session.derived?.draft);
  /** The ladders decide what is proposed: with one that broke, to go back. */
  const worse = $derived(
    proof && session.provedBefore && !session.proving ? worsened(session.provedBefore, proof) : [],
  );
  const knocks = $derived(session.live?.knocks ?? []);
  /** Whether nobody new is known to get into a live box: an old session says nothing, as it lives on. */
  const outside = $derived(session.isLive && !knocks.some((k) => k.answers));
  /** What a live box that is silent reached before says nothing of now. */
  const isSilent = $derived(session.isLive && session.isOutOfReach);
  /** Whether it was tried, and nobody does. */
  const shut = $derived(outside && knocks.length > 0);
  /** Whether somebody wants to stay all the same: asked by the addresses that let nobody in. */
  let isAsked = $state(false);
  const cannotEnd = $derived(!session.leading || session.isOutOfReach || session.isTrialOver);
  const stay = () => session.box.trial && end({ do: 'stay', id: session.box.trial.id });
  const whole = $derived(session.box.trial ? (session.box.trial.until - session.box.trial.since) / 1000 : 1);
  const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`;
  function end(event: Parameters<typeof session.tell>[0]) {
    const no = session.tell(event);
    refused = no ? REFUSALS[no] : '';
  }
</script>

<p class="mono text-2xl font-semibold" data-testid="countdown" aria-live="off">{clock(session.trialLeft)}</p>
<progress class="progress w-full" max={whole} value={session.trialLeft} aria-label="time left on trial"
></progress>
{#if !session.isTrialOver}
  <p class="my-2">The box runs what is on trial. It goes back by itself when the time is over.</p>
{/if}
<LiveTrial />
{#if seat && !session.isLive}
  <div
    class={['mb-2 rounded p-2', session.isOutOfReach ? 'ground-error' : 'bg-base-200']}
    data-testid="knock"
  >
    {#if seat.running}
      ✓ <b>{seat.name}</b> is answered at <span class="mono">{seat.running}</span>.
    {:else}
      ✕ No answer from the box: <b>{seat.name}</b> ({seat.at.address ??
        seat.at.address6 ??
        'without an address'} at {seat.at.plug}) has no way in.
      {#each seat.moves as move, n (n)}
        <button class="btn mt-1 block btn-xs" data-testid="at-desk-{n}" onclick={() => session.atDesk(move)}
          >At {seat.name}: {move.text}</button
        >
      {:else}
        <p>Nothing at the desk helps: it goes back by itself in {clock(session.trialLeft)}.</p>
      {/each}
    {/if}
  </div>
{/if}
{#if proof && !isSilent}
  <ul class="mb-3" data-testid="checks">
    {#each session.live?.uplinks ?? [] as u (u.interface + u.family)}
      <li><b>{ladderName(u)}</b> <LiveRungs uplink={u} short /></li>
    {/each}
    {#each proof.uplinks as u (u.interface + u.family)}
      <li>
        {firstFail(u.stages) ? '✕' : '✓'} <b>{ladderName(u)}</b>: {ladderSentence(u.stages)}
      </li>
    {/each}
    <li>
      {deskGroups(proof).some((g) => g.fail) ? '✕' : '✓'} <b>desks</b>: {desksSentence(deskGroups(proof))}
    </li>
  </ul>
{/if}
{#if worse.length && !isSilent}
  <p class="ground-error mb-2 rounded p-2" role="alert" data-testid="worse">
    ■ This came through before the trial and does not now: {worse.join(', ')}.
  </p>
{/if}
<div class="flex gap-2">
  <button
    class={['btn btn-sm', !worse.length && !outside && 'btn-primary']}
    data-testid="stay"
    disabled={cannotEnd || session.proving || session.isTheirTrial}
    onclick={() => (shut ? (isAsked = true) : stay())}
    >{worse.length ? 'Stay all the same' : 'Stay with it'}{shut ? ' …' : ''}</button
  >
  <button
    class={['btn btn-sm', (worse.length || shut) && 'btn-primary']}
    data-testid="go-back"
    disabled={cannotEnd}
    onclick={() => end({ do: 'go-back' })}>Go back</button
  >
  <button
    class="btn btn-ghost btn-sm"
    disabled={cannotEnd}
    onclick={() => session.box.trial && end({ do: 'extend', id: session.box.trial.id, seconds: 60 })}
    >+1 min</button
  >
</div>
{#if isAsked && shut}
  <p class="ground-error mt-2 rounded p-2" role="alert" data-testid="stay-asks">
    ■ No new connection gets in at {knocks.map((k) => k.at).join(' or ')}. Whoever stays with this may find
    themselves outside, with nobody but the console to let them in.
    <button
      class="btn mt-1 block btn-xs"
      data-testid="stay-outside"
      disabled={!session.leading}
      onclick={stay}>Stay, and let nobody in at {knocks[0]!.at}</button
    >
  </p>
{/if}
{#if refused}<p class="mt-1 text-error" role="alert">{refused}</p>{/if}
<Refused />
