<script lang="ts">
  import { formatIp, formatMac } from '#core/addr';
  import { gestureAt } from '#core/edits';
  import { stationsOf } from '#core/site';
  import type { Interface } from '#core/site';
  import { useSession } from '../../session/index';
  // Who sits behind an interface, with the lease each has; a lease becomes a reservation in one click.
  let { iface }: { iface: Interface } = $props();
  const session = useSession();
  const rows = $derived(
    stationsOf(session.wiring, iface).map((station) => {
      const lease = session.derived?.draft.leases.find((l) => l.station === station.name);
      const fixed = session.prospects.stations.get(station.name)?.address;
      return {
        station,
        address: lease?.address ?? (fixed === undefined ? '' : formatIp(fixed)),
        kept: iface.reserved.some((k) => k.mac === station.mac),
      };
    }),
  );
  function reserve(name: string, address: string) {
    const { made } = gestureAt(
      'reservation',
      session.model,
      { interface: iface.name, label: name, address },
      {},
    );
    if (made.ok) session.apply(made.changes, `reserve ${address} for ${name}`);
    else session.nav.make('reservation', { interface: iface.name, label: name, address });
  }
</script>

<h3 class="mt-4 mb-1 font-semibold">Devices here</h3>
<table class="w-full text-[12px]" data-testid="leases">
  <tbody>
    {#each rows as { station, address, kept } (station.name)}
      <tr class="border-t border-base-300">
        <td class="py-1 pe-2"
          >{#if station.supposed}<span class="quiet">~{station.name}</span>{:else}<button
              class="link link-hover"
              onclick={() => session.nav.select(`station/${station.name}`)}>{station.name}</button
            >{/if}</td
        >
        <td class="mono" title={formatMac(station.mac)}>{address || '—'}</td>
        <td class="text-end">
          {#if !station.dhcp}<span class="quiet">fixed</span>
          {:else if kept}<span class="quiet">reserved</span>
          {:else if address && !station.supposed}
            <button
              class="link text-primary"
              data-testid={`reserve-${station.name}`}
              title={`keeps ${address} for ${formatMac(station.mac)}`}
              onclick={() => reserve(station.name, address)}>reserve</button
            >
          {/if}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
