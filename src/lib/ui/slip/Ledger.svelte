<script lang="ts">
  import { contains, formatIp } from '#core/addr';
  import type { Ipv4 } from '#core/addr';
  import { changeClauses } from '#core/edits';
  import { foldFree, ledgerOf } from '#core/model';
  import type { Interface } from '#core/site';
  import { useSession } from '../../session/index';
  // The public addresses of an uplink, one a line; from a free one a service is published, or a network leaves by it.
  let { iface, titled = 'Public addresses' }: { iface: Interface; titled?: string } = $props();
  const session = useSession();
  const lines = $derived(foldFree(ledgerOf(session.model).filter((l) => l.interface === iface.name)));
  /** Makes an address a secondary one of the box: with the length of the network it lies in, or as a host's. */
  function holdAlso(address: Ipv4) {
    const near = iface.addresses.find((a) => contains(a.prefix, address))?.prefix;
    const text = `also ${formatIp(address)}/${near?.length ?? 32}`;
    session.apply(
      changeClauses(session.site, iface.statement, [{ do: 'add', text }]),
      `${iface.name}: ${text}`,
    );
  }
  const WORDS = {
    gateway: 'gateway',
    box: 'the box',
    also: 'secondary',
    shared: 'shared by both boxes',
    twin: 'the second box',
    door: 'door',
    leaves: 'leaves as',
    free: 'free',
  };
</script>

{#if lines.length}
  <h3 class="mt-4 mb-1 font-semibold">{titled}</h3>
  <table class="w-full text-[12px]" data-testid="ledger">
    <tbody>
      {#each lines as line (line.address)}
        {@const address = formatIp(line.address)}
        {@const use = line.uses[0]!.use}
        <tr class="border-t border-base-300">
          <td class="mono py-1 pe-2"
            >{address}{#if line.last !== undefined}
              – {formatIp(line.last)}{/if}</td
          >
          <td>
            {#each line.uses as u, i (i)}
              {#if i > 0},{/if}
              {#if u.subject && u.subject !== iface.statement.subject}<button
                  class="link link-hover"
                  onclick={() => session.nav.select(u.subject!)}
                  >{WORDS[u.use]} {u.subject.split('/')[1]}</button
                >{:else}<span class="quiet"
                  >{WORDS[u.use]}{line.count > 1 ? `, ${line.count} of them` : ''}</span
                >{/if}
            {/each}
          </td>
          <td class="text-end whitespace-nowrap">
            {#if use === 'free' || use === 'also' || use === 'shared'}
              <button
                class="link text-primary"
                data-testid={`ledger-publish-${address}`}
                onclick={() => session.nav.make('publish', { address })}>publish</button
              >
              <button
                class="link text-primary"
                data-testid={`ledger-leave-${address}`}
                onclick={() => session.nav.make('leave-as', { address })}>leave as</button
              >
              {#if use === 'free'}<button
                  class="link text-primary"
                  title="a secondary address of the box itself"
                  data-testid={`ledger-also-${address}`}
                  onclick={() => holdAlso(line.address)}>hold</button
                >{/if}
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
{/if}
