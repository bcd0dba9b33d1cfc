<script lang="ts">
  import { formatPrefix, formatRangeShort } from '#core/addr';
  import { promoteAddress, secondaryAddresses } from '#core/edits';
  import { primaryAddress } from '#core/site';
  import type { Interface } from '#core/site';
  import { useSession } from '../../session/index';
  // Which address is the primary one: any secondary can take its place, and it theirs.
  let { iface }: { iface: Interface } = $props();
  const session = useSession();
  const items = $derived(primaryAddress(iface) ? secondaryAddresses(iface) : []);
  const text = ({ range, length }: (typeof items)[number]) =>
    range.first === range.last ? formatPrefix({ address: range.first, length }) : formatRangeShort(range);
</script>

{#if items.length}
  <p class="mt-2 flex flex-wrap items-center gap-1" data-testid="addresses">
    <span class="quiet">make primary:</span>
    {#each items as item, i (i)}
      <button
        class="btn mono h-6 min-h-0 px-1.5 btn-xs"
        onclick={() =>
          session.apply(
            promoteAddress(session.site, iface, item.range.first),
            `primary address of ${iface.name}`,
          )}>{text(item)}</button
      >
    {/each}
  </p>
{/if}
