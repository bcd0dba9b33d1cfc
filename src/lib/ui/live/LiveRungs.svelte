<script lang="ts">
  import type { LiveUplink } from '#core/box';
  import { STAGE_NAMES } from '#words';
  import { useSession } from '../../session/index';
  import Rung from '../primitives/Rung.svelte';
  // What the running box itself saw of one uplink. Older than a minute it is no better than the bench, and says its age.
  let { uplink, short = false }: { uplink: LiveUplink; short?: boolean } = $props();
  const session = useSession();
  const age = $derived(Math.max(0, (session.now - (session.live?.ladderAt ?? 0)) / 1000));
  const fresh = $derived(age < 60);
  const fail = $derived(uplink.stages.find((s) => s.result === 'fail'));
</script>

<span class="inline-flex flex-wrap items-center gap-x-2 gap-y-0.5" data-testid="live-{uplink.interface}">
  <span class="font-semibold">live</span>
  {#each uplink.stages as s (s.stage)}
    <Rung
      result={s.result}
      evidence={fresh ? 'live' : 'bench'}
      label={short ? '' : (STAGE_NAMES[s.stage] ?? s.stage)}
      title={`${STAGE_NAMES[s.stage] ?? s.stage}: ${s.detail}`}
    />
  {/each}
  <span class={fail ? 'font-semibold text-error' : 'quiet'}>{fail ? fail.detail : 'passes'}</span>
  <span class="quiet" data-testid="live-age"
    >{fresh ? `${age.toFixed(age < 10 ? 1 : 0)} s ago` : `${Math.round(age / 60)} min ago`}</span
  >
</span>
