<script lang="ts">
  import { useSession } from '../../session/index';
  // Why the live box, or the server before it, did not take the last order.
  let { again }: { again?: (overrule: readonly string[]) => void } = $props();
  const session = useSession();
  const refused = $derived(session.live?.refused);
</script>

{#if session.live?.ordering}<p class="mt-1 quiet" role="status">
    the box is told: {session.live.ordering} …
  </p>{/if}
{#if refused}
  <div class="ground-error mt-2 rounded p-2" role="alert" data-testid="live-refused">
    <p>■ {refused.text}.</p>
    {#each refused.more as line, n (n)}<p class="text-[12.5px] break-words">{line}</p>{/each}
    {#if again && refused.code === 'lockout'}
      <button class="btn mt-1 btn-xs" data-testid="overrule-lockout" onclick={() => again?.(['lockout'])}
        >Try it all the same: I know another way in</button
      >
    {/if}
  </div>
{/if}
