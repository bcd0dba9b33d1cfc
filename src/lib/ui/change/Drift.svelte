<script lang="ts">
  import { changeTexts } from '#words';
  import { useSession } from '../../session/index';
  // What somebody else changed of what the box runs, and the two ways to go on.
  const session = useSession();
  const drift = $derived(session.drift);
  const SIDES = [
    ['base', 'it was'],
    ['theirs', 'the box has'],
    ['ours', 'the draft has'],
  ] as const;
</script>

{#if drift}
  <section class="panel mb-4 p-3" aria-label="changed elsewhere" data-testid="drift">
    <h2 class="mb-2 h2">The box was changed elsewhere</h2>
    <p class="mb-2">Since this draft was made, somebody else told the box:</p>
    <ul class="mb-2">
      {#each drift.changes.flatMap(changeTexts) as line, n (n)}
        <li class="mono text-[12.5px] break-words">{line}</li>
      {:else}
        <li class="quiet">Nothing that means anything to it.</li>
      {/each}
    </ul>
    {#each drift.merge.clashes as clash, n (n)}
      <div class="mb-2 rounded bg-base-200 p-2" data-testid="clash-{n}">
        <p><b>{clash.subject.replace('/', ' ')}</b> was changed on both sides; the draft keeps its own.</p>
        <dl class="sides">
          {#each SIDES as [side, head] (side)}
            <dt class="quiet">{head}</dt>
            <dd class="mono text-[12.5px] break-words">{clash[side] ?? '–'}</dd>
          {/each}
        </dl>
        {#if clash.take.length}
          <button
            class="btn mt-1 btn-xs"
            data-testid="take-theirs-{n}"
            disabled={!session.leading}
            onclick={() => session.takeTheirs(clash)}>Take what the box has</button
          >
        {/if}
      </div>
    {/each}
    <button
      class="btn btn-primary btn-sm"
      data-testid="adopt"
      disabled={!session.leading}
      onclick={() => session.adopt()}
      >Adopt into the draft{drift.merge.taken.length ? ` (${drift.merge.taken.length})` : ''}</button
    >
    <button
      class="btn btn-sm"
      data-testid="overrule-drift"
      disabled={!session.leading}
      onclick={() => session.overrule()}>Let the draft stand</button
    >
  </section>
{/if}

<style>
  .sides {
    display: grid;
    grid-template-columns: max-content 1fr;
    gap: 2px 10px;
  }
</style>
