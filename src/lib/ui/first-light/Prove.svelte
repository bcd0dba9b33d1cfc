<script lang="ts">
  import { findingText, mendText } from '#words';
  import { useSession } from '../../session/index';
  import { deskGroups, desksSentence, ladderName, standingOf } from '../ladder/ladders';
  import Ladder from '../ladder/Ladder.svelte';
  import Sure from '../controls/Sure.svelte';
  // What the bench says would happen, and what it rests on. An error stops, or is overruled by its name.
  let { overruled = $bindable(), ondone }: { overruled: readonly string[]; ondone: () => void } = $props();
  const session = useSession();
  const proof = $derived(session.derived?.draft);
  const errors = $derived(session.findings.filter((f) => f.severity === 'error'));
  const open = $derived(errors.filter((f) => !overruled.includes(f.id)));
</script>

<p>Nothing is applied yet. This is what the bench says would happen.</p>
{#if proof?.uplinks.some((u) => u.onSheet)}
  <p data-testid="sheet-only">
    <b>Proved against your sheet only:</b> the provider on the bench does what the sheet says, because the sheet
    is all that is known of it. Whether the real line does so, the box finds out.
  </p>
{/if}
{#if proof}
  {#each proof.uplinks as u (u.interface + u.family)}
    <Ladder title={ladderName(u)} about={standingOf(u)} stages={u.stages} supposed={u.supposed} />
  {/each}
  <p
    class={deskGroups(proof).some((g) => g.fail) ? 'font-semibold text-error' : 'font-semibold'}
    data-testid="desks-say"
  >
    {desksSentence(deskGroups(proof))}
  </p>
  {#each proof.desks as d (d.station)}
    <Ladder title={`desk ${d.station}`} stages={d.stages} supposed={d.supposed} />
  {/each}
{/if}
{#each errors as f (f.id)}
  <div class="ground-error rounded p-2" role="alert">
    <p>■ <b>{f.subject.replace('/', ' ')}</b> {findingText(f)}</p>
    {#each f.mends as mend, i (i)}
      <button class="link block text-start text-primary" onclick={() => session.mend(f, i, mendText(mend))}
        >{mendText(mend)}</button
      >
    {/each}
    <Sure
      id={f.id}
      code={f.code}
      text="go on all the same:"
      testid={`sure-${f.code}`}
      bind:confirmed={overruled}
    />
  </div>
{/each}
<button
  class="btn btn-primary btn-sm"
  data-testid="to-trial"
  disabled={open.length > 0 || !session.isLookedAt}
  onclick={ondone}>On to the trial</button
>
{#if open.length}<p class="quiet">
    {open.length}
    {open.length > 1 ? 'errors stand' : 'error stands'} in the way.
  </p>{/if}
