<script lang="ts">
  import { replug } from '#core/edits';
  import type { StatementOf } from '#core/notation';
  import { useSession } from '../../session/index';
  // Where a station or circuit is plugged in, with every other place it could be.
  let { statement }: { statement: StatementOf<'station'> | StatementOf<'circuit'> } = $props();
  const session = useSession();
  const plug = $derived(statement.plug);
  const now = $derived(
    !plug
      ? ''
      : plug.to === 'port'
        ? `${plug.port}${plug.tag === undefined ? '' : ` tag ${plug.tag}`}`
        : `${plug.switch}/${plug.jack}`,
  );
  const places = $derived([
    ...new Set([
      now,
      ...session.site.ports.keys(),
      ...session.site.switches.flatMap((s) => s.jacks.map((j) => `${s.name}/${j.value.jack}`)),
    ]),
  ]);
  const lease = $derived(session.derived?.draft.leases.find((l) => l.station === statement.name));
  const dead = $derived(session.drill.dead.includes(statement.name));
</script>

<div class="mt-3 flex items-center gap-2">
  <label for="plugged" class="quiet">plugged into</label>
  <select
    id="plugged"
    class="mono rounded border border-base-300 bg-base-100 px-1 text-[12px]"
    data-testid="plugged-into"
    value={now}
    onchange={(e) =>
      session.apply(
        replug(session.site, statement, e.currentTarget.value),
        `plug ${statement.name} into ${e.currentTarget.value}`,
      )}
  >
    {#each places as p (p)}<option value={p}>{p || 'nowhere'}</option>{/each}
  </select>
</div>
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
