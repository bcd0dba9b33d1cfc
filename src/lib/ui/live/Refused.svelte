<script lang="ts">
  import { useSession } from '../../session/index';
  // Why the live box, or the server before it, did not take the last order.
  let { again }: { again?: (overrule: readonly string[]) => void } = $props();
  const session = useSession();
  const refused = $derived(session.live?.refused);
  /** Tries the same once more, with whatever was overruled before and this. */
  const overrule = (...codes: readonly string[]) => again?.([...(refused?.overruled ?? []), ...codes]);
  async function handOver(devices: readonly string[]) {
    const overruled = refused?.overruled ?? [];
    if (await session.live?.order({ do: 'take', devices: [...devices] })) again?.(overruled);
  }
</script>

{#if session.live?.ordering}<p class="mt-1 quiet" role="status">
    the box is told: {session.live.ordering} …
  </p>{/if}
{#if refused}
  <div class="ground-error mt-2 rounded p-2" role="alert" data-testid="live-refused">
    <p>■ {refused.text}.</p>
    {#each refused.more as line, n (n)}<p class="text-[12.5px] break-words">{line}</p>{/each}
    {#if again && refused.code === 'lockout'}
      <button class="btn mt-1 btn-xs" data-testid="overrule-lockout" onclick={() => overrule('lockout')}
        >Try it all the same: I know another way in</button
      >
    {:else if again && refused.code === 'others'}
      {@const devices = refused.devices ?? []}
      {#if devices.length}
        <button class="btn mt-1 block btn-xs" data-testid="hand-over" onclick={() => handOver(devices)}
          >Hand over {devices.join(', ')}, and try it</button
        >
        <p class="text-[12.5px]">
          Whoever configures {devices.length === 1 ? 'it' : 'them'} is stopped while this runs, and has {devices.length ===
          1
            ? 'it'
            : 'them'} back when it goes back or Jolly Gate is removed.
        </p>
      {/if}
      <button class="btn mt-1 block btn-xs" data-testid="overrule-others" onclick={() => overrule('others')}
        >Try it all the same: both set addresses and routes</button
      >
    {/if}
  </div>
{/if}
