<script lang="ts">
  import { formatIp, formatPrefix, networkOf } from '#core/addr';
  import { lookUp } from '#core/semantics';
  import { interfaceAt, segmentOf } from '#core/site';
  import type { StatementOf } from '#core/notation';
  import { useSession } from '../../session/index';
  // A router inside by its networks: which one the box meets it on, who sits on the others, and how the box gets there.
  let { statement }: { statement: StatementOf<'router'> } = $props();
  const session = useSession();
  const legs = $derived(
    (session.wiring.routers.find((r) => r.name === statement.name)?.legs ?? []).map((leg) => {
      const iface = interfaceAt(session.site, leg.landing);
      const sits = iface
        ? []
        : session.wiring.stations.filter(
            (s) => !s.off && leg.segment !== undefined && segmentOf(session.site, s.landing) === leg.segment,
          );
      const route = lookUp(session.model.routes, 'main', leg.address.address);
      return { leg, iface, sits, way: route?.via === undefined ? undefined : formatIp(route.via) };
    }),
  );
  const address = (name: string) => session.prospects.stations.get(name)?.address;
</script>

<h3 class="mt-4 mb-1 font-semibold">Networks of this router</h3>
<table class="w-full text-[12px]" data-testid="legs">
  <tbody>
    {#each legs as { leg, iface, sits, way } (leg.name)}
      <tr class="border-t border-base-300 align-baseline">
        <td class="mono py-1 pe-2">{formatPrefix(networkOf(leg.address))}</td>
        <td class="pe-2 quiet">{leg.name}</td>
        <td>
          {#if iface}
            the box, as <button
              class="link link-hover"
              onclick={() => session.nav.select(`interface/${iface.name}`)}>{iface.name}</button
            >
          {:else}
            {#each sits as s (s.name)}
              <div>
                <button class="link link-hover" onclick={() => session.nav.select(`station/${s.name}`)}
                  >{s.name}</button
                >
                <span class="mono quiet"
                  >{address(s.name) === undefined ? '' : formatIp(address(s.name)!)}</span
                >
              </div>
            {:else}<span class="quiet">nobody</span>{/each}
            <div class="quiet">the box gets there {way ? `via ${way}` : 'by no route of its own'}</div>
          {/if}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
