<script lang="ts">
  import { REFUSALS } from '#words';
  import { useSession } from '../../session/index';
  import LiveRungs from '../live/LiveRungs.svelte';
  import LiveTrial from '../live/LiveTrial.svelte';
  import Refused from '../live/Refused.svelte';
  import Trial from '../trial/Trial.svelte';
  import { firstFail, ladderSentence } from '../ladder/ladders';
  // The trial, staying with it, and the save to start-up that ends First light.
  let { overruled, onback }: { overruled: readonly string[]; onback: () => void } = $props();
  const session = useSession();
  const proof = $derived(session.derived?.draft);
  const errors = $derived(session.findings.filter((f) => f.severity === 'error'));
  const open = $derived(errors.filter((f) => !overruled.includes(f.id)));
  let seconds = $state(120);
  let refused = $state('');
  function tryIt() {
    const codes = errors.filter((f) => overruled.includes(f.id)).map((f) => f.code);
    const no = session.tryDraft(seconds, 'First light', open.length, codes);
    refused = no ? REFUSALS[no] : '';
  }
  function finish() {
    session.tell({ do: 'save' });
    session.firstLight = false;
    session.nav.view = 'board';
    void session.save();
  }
</script>

{#if session.box.trial}
  <Trial />
{:else if session.changes.length}
  <p>The box takes the draft and goes back by itself after {seconds} seconds, unless you stay with it.</p>
  <label class="block w-32"
    >seconds <input type="number" class="field" min="5" max="3600" bind:value={seconds} /></label
  >
  <button
    class="btn btn-primary btn-sm"
    data-testid="try"
    disabled={open.length > 0 || !session.isLookedAt}
    onclick={tryIt}>Try it</button
  >
  {#if open.length}<p class="text-error" role="alert">
      ■ {open.length}
      {open.length > 1 ? 'errors stand' : 'error stands'} in the way:
      <button class="link" onclick={onback}>mend them, or go on by their names</button>
    </p>{/if}
  {#if refused}<p class="text-error" role="alert">{refused}</p>{/if}
  <LiveTrial />
  <Refused again={(codes) => session.tryDraft(seconds, 'First light', open.length, codes)} />
  {#if session.box.last}<p class="quiet">It went back by itself.</p>{/if}
{:else if session.box.history.length}
  <p>
    The box runs what you wrote{proof?.uplinks[0] && !firstFail(proof.uplinks[0].stages)
      ? `, ${ladderSentence(proof.uplinks[0].stages)}`
      : ''}. Save it, and a reboot starts the same.
  </p>
  {#each session.live?.uplinks ?? [] as u (u.interface + u.family)}
    <p><b>{u.interface}</b> <LiveRungs uplink={u} /></p>
  {/each}
  <button class="btn btn-primary btn-sm" data-testid="save-finish" onclick={finish}
    >Save to start-up and open the board</button
  >
{:else}
  <p class="quiet">Nothing is written yet: the steps before come first.</p>
{/if}
