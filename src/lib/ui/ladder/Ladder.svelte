<script lang="ts">
  import type { StageResult } from '#core/proof';
  import { STAGE_NAMES, stageText } from '#words';
  import Rung from '../primitives/Rung.svelte';
  let {
    title,
    about = '',
    stages,
    supposed,
  }: { title: string; about?: string; stages: readonly StageResult[]; supposed: boolean } = $props();
  const evidence = $derived(supposed ? 'supposed' : 'bench');
</script>

<article class="panel p-3">
  <h3 class="mb-1 font-semibold">{title} <span class="font-normal quiet">{about}</span></h3>
  <ol>
    {#each stages as s (s.stage)}
      <li class="grid grid-cols-[16px_76px_1fr] items-baseline gap-2 py-px">
        <Rung result={s.result} evidence={s.supposed ? 'supposed' : evidence} />
        <span class={s.result === 'fail' ? 'font-semibold text-error' : 'quiet'}
          >{STAGE_NAMES[s.stage] ?? s.stage}</span
        >
        <span class={s.result === 'fail' ? 'font-semibold' : s.result === 'skipped' ? 'quiet' : ''}
          >{stageText(s)}</span
        >
      </li>
    {/each}
  </ol>
</article>
