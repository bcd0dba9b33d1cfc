<script lang="ts">
  import type { LiveUplink } from '#core/box';
  import type { UplinkLadder } from '#core/proof';
  import { STAGE_NAMES, stageText } from '#words';
  import LiveRungs from './LiveRungs.svelte';
  // The bench foretells, the box itself has seen: where they differ, that comes first.
  let { bench, live }: { bench: UplinkLadder; live: LiveUplink } = $props();
  const differs = $derived(
    bench.stages.flatMap((b) => {
      const l = live.stages.find((s) => s.stage === b.stage);
      return l && l.result !== b.result && (l.result === 'fail' || b.result === 'fail') ? [{ b, l }] : [];
    }),
  );
</script>

<div class="panel mt-1 px-3 py-2" data-testid="beside-{live.interface}">
  {#each differs as { b, l } (b.stage)}
    <p class="font-semibold">
      {STAGE_NAMES[b.stage]}: the bench says “{stageText(b)}”; the box says “{l.detail}”.
    </p>
  {/each}
  <LiveRungs uplink={live} />
</div>
