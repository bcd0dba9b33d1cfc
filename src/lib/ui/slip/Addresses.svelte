<script lang="ts">
  import { formatPrefix, formatRangeShort } from '#core/addr';
  import { promoteAddress, reorderAlso, secondaryAddresses } from '#core/edits';
  import { primaryAddress } from '#core/site';
  import type { Interface } from '#core/site';
  import { useSession } from '../../session/index';
  // The order of addresses: which is the primary, and which come after it.
  let { iface }: { iface: Interface } = $props();
  const session = useSession();
  const items = $derived(secondaryAddresses(iface));
  const primary = $derived(primaryAddress(iface));
  const text = (i: (typeof items)[number]) =>
    i.range.first === i.range.last
      ? formatPrefix({ address: i.range.first, length: i.length })
      : formatRangeShort(i.range);
  let dragged = $state<number | undefined>();
  const move = (from: number, to: number) =>
    session.apply(reorderAlso(session.site, iface, from, to), `order of ${iface.name}'s addresses`);
</script>

<h3 class="mt-4 mb-1 font-semibold">Addresses, in order</h3>
<ol class="mono text-[12px]" data-testid="addresses">
  {#if primary}<li class="py-0.5">{formatPrefix(primary)} <span class="quiet">primary</span></li>{/if}
  {#each items as item, i (i)}
    <li
      class="flex items-baseline gap-1 py-0.5"
      draggable="true"
      ondragstart={() => (dragged = i)}
      ondragover={(e) => dragged !== undefined && e.preventDefault()}
      ondrop={() => {
        if (dragged !== undefined && dragged !== i) move(dragged, i);
        dragged = undefined;
      }}
    >
      <span class="flex-1 cursor-grab">{text(item)}</span>
      <button
        class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
        aria-label={`${text(item)} further up`}
        disabled={i === 0}
        onclick={() => move(i, i - 1)}>↑</button
      >
      <button
        class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
        aria-label={`${text(item)} further down`}
        disabled={i === items.length - 1}
        onclick={() => move(i, i + 1)}>↓</button
      >
      {#if primary}
        <button
          class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
          aria-label={`make ${text(item)} the primary address`}
          onclick={() =>
            session.apply(
              promoteAddress(session.site, iface, item.range.first),
              `primary address of ${iface.name}`,
            )}>make primary</button
        >
      {/if}
    </li>
  {/each}
</ol>
