<script lang="ts">
  import type { RibbonView } from '../../session/index';
  import { useSession } from '../../session/index';
  import type { DoorMark } from './doors';
  let {
    from,
    to,
    ribbon,
    doors,
    chosen,
    onchoose,
  }: {
    from: string;
    to: string;
    ribbon: RibbonView | undefined;
    doors: readonly DoorMark[];
    chosen: boolean;
    onchoose: () => void;
  } = $props();
  const session = useSession();
  /** Doors that are drawn one by one; more are a number until somebody asks. */
  const MOST_DOORS = 3;
  let spread = $state(false);
</script>

{#if ribbon}
  <button
    class={['chip', chosen && 'chosen']}
    data-testid={`ribbon-${from}-${to}`}
    aria-pressed={chosen}
    onclick={onchoose}
    ><span class="sr-only"
      >{from} to {to}:
    </span>{`${ribbon.text || 'nothing passes'} `}{#if ribbon.leavesAs}<span class="mono quiet"
        >as {ribbon.leavesAs}</span
      >{/if}</button
  >
{:else}
  <button
    class="chip empty"
    data-testid={`gap-${from}-${to}`}
    title={`write a passage from ${from} to ${to}`}
    onclick={() => {
      onchoose();
      session.nav.make('passage', { zone: from, to });
    }}>nothing {doors.length ? 'else ' : ''}passes · +</button
  >
{/if}
{#if doors.length > MOST_DOORS && !spread}
  <button
    class="chip door"
    data-testid={`doors-${from}-${to}`}
    title={doors.map((d) => d.name).join(' ')}
    aria-expanded="false"
    onclick={() => (spread = true)}>{doors.length} doors</button
  >
{/if}
{#each doors.length > MOST_DOORS && !spread ? [] : doors as door (door.name)}
  <button
    class="chip door"
    data-testid={`door-${door.name}`}
    title="follow somebody from the internet through it"
    onclick={() => {
      session.nav.view = 'proof';
      void session.trace('internet', `door ${door.name}`, door.ask);
    }}>door {door.name}</button
  >
{/each}

<style>
  .chip {
    border-radius: 4px;
    padding: 2px 8px;
    background: var(--color-base-100);
    border: 1px solid var(--color-base-300);
    text-align: start;
  }
  .chip.empty {
    background: var(--color-base-200);
    border-style: dashed;
    color: var(--quiet);
  }
  .chip.door {
    border-style: double;
    border-width: 3px;
    padding: 0 6px;
  }
  .chip.chosen {
    outline: 2px solid var(--color-base-content);
    outline-offset: 2px;
  }
</style>
