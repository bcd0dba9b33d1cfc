<script lang="ts">
  import { formatPrefix, formatRange } from '#core/addr';
  import type { StatementOf, Who } from '#core/notation';
  import { LOGINS } from '#core/semantics';
  import { useSession } from '../../session/index';
  // Who may log in to the box from where: every login service that an interface answers, with its sources.
  let { statement }: { statement: StatementOf<'box'> | StatementOf<'zone'> } = $props();
  const session = useSession();
  const whoText = (w: Who) =>
    w.type === 'name'
      ? w.name
      : w.type === 'addresses'
        ? w.prefix
          ? formatPrefix(w.prefix)
          : formatRange(w.range)
        : w.type;
  const rows = $derived(
    session.site.interfaces
      .filter((i) => !i.off && (statement.kind === 'box' || i.zone?.name === statement.name))
      .flatMap((i) =>
        i.answers.flatMap((a) =>
          a.services
            .filter((s) => LOGINS.has(s.name))
            .map((s) => ({
              service: `${s.name}${s.port === undefined ? '' : ` ${s.port}`}`,
              by: i.name,
              zone: i.zone?.name ?? 'no zone',
              from: a.from ? a.from.map(whoText).join(', ') : 'anyone there',
            })),
        ),
      ),
  );
</script>

<h3 class="mt-4 mb-1 font-semibold">Who may log in</h3>
{#if rows.length}
  <table class="w-full text-[12px]" data-testid="logins">
    <tbody>
      {#each rows as r, n (n)}
        <tr class="border-t border-base-300">
          <td class="mono py-1">{r.service}</td>
          <td
            ><button class="link link-hover" onclick={() => session.nav.select(`interface/${r.by}`)}
              >{r.by}</button
            ></td
          >
          <td class="quiet">{r.zone}</td>
          <td>{r.from}</td>
        </tr>
      {/each}
    </tbody>
  </table>
{:else}<p class="quiet">Nobody: no interface here answers a login.</p>{/if}
