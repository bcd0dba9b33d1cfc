<script lang="ts">
  import type { StatementOf } from '#core/notation';
  import { useSession } from '../../session/index';
  // What the bench knows of a station or circuit: its lease, and a drill.
  let { statement }: { statement: StatementOf<'station'> | StatementOf<'circuit'> } = $props();
  const session = useSession();
  const lease = $derived(session.derived?.draft.leases.find((l) => l.station === statement.name));
  const dead = $derived(session.drill.dead.includes(statement.name));
</script>

{#if lease}
  <p class="mt-2" data-testid="lease">
    lease <span class="mono">{lease.address}</span>, gateway
    <span class="mono">{lease.gateway || 'none'}</span>
  </p>
{/if}
{#if statement.kind === 'circuit'}
  <button class="btn mt-2 btn-sm" aria-pressed={dead} onclick={() => session.toggleDead(statement.name)}
    >{dead ? 'Bring it back (drill)' : 'Deaden it (drill)'}</button
  >
{/if}
