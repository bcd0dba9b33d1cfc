<script lang="ts">
  import type { FileChange } from '#core/notation';
  import { findingText } from '#words';
  import { useSession } from '../../session/index';
  import type { FindingView } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';
  // What changes would bring and take away, in findings: asked of the worker once they have rested a moment.
  let { changes }: { changes: readonly FileChange[] | undefined } = $props();
  const session = useSession();
  let outcome = $state.raw<{ comes: readonly FindingView[]; goes: readonly FindingView[] } | undefined>();
  $effect(() => {
    const asked = changes;
    outcome = undefined;
    if (!asked?.length) return;
    let stale = false;
    const told = (o: typeof outcome) => {
      if (!stale) outcome = o;
    };
    const timer = setTimeout(() => void session.foretell(asked).then(told, session.cannot), 80);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  });
</script>

{#each outcome?.goes ?? [] as f, i (i)}
  <p class="text-success">✓ mends: {findingText(f)}</p>
{/each}
{#each outcome?.comes ?? [] as f, i (i)}
  <p><Weight severity={f.severity} /> {findingText(f)}</p>
{/each}
{#if outcome && !outcome.comes.length}<p class="quiet">no new finding</p>{/if}
