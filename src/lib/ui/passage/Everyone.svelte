<script lang="ts">
  import type { Zone } from '#core/site';
  import type { RibbonView } from '../../session/index';
  import { lookOf } from '../looks';
  import Bank from './Bank.svelte';
  import Chips from './Chips.svelte';
  import { LOW, ribbonPath } from './banks';
  import type { DoorMark } from './doors';
  let {
    zones,
    ribbons,
    doors,
    pair,
    onchoose,
  }: {
    zones: readonly Zone[];
    ribbons: readonly RibbonView[];
    doors: ReadonlyMap<string, readonly DoorMark[]>;
    pair: { readonly from: string; readonly to: string } | undefined;
    onchoose: (pair: { from: string; to: string }) => void;
  } = $props();
  /** The bank whose ribbons are told in words: on the left who begins, on the right who is reached. */
  let told = $state.raw<{ readonly name: string; readonly begins: boolean } | undefined>();
  const bank = $derived(zones.some((z) => z.name === told?.name) ? told : undefined);
  const height = $derived(zones.length * LOW);
  const place = $derived(new Map(zones.map((z, i) => [z.name, i * LOW + LOW / 2])));
  const drawn = $derived(ribbons.filter((r) => r.text));
  /** Where doors lead without a passage: what they let in is no ribbon of its own. */
  const led = $derived(
    zones.filter((z) => z.upstream).flatMap((z) => [...doors.keys()].map((to) => ({ from: z.name, to }))),
  );
  const isTold = (r: { readonly from: string; readonly to: string }) =>
    (bank?.begins ? r.from : r.to) === bank?.name;
  const pick = (name: string, begins: boolean) =>
    (told = bank?.name === name && bank.begins === begins ? undefined : { name, begins });
  const tintOf = (name: string) => lookOf(zones.find((z) => z.name === name)).tint;
</script>

<div class="grid grid-cols-[10rem_minmax(16rem,1fr)_10rem]" data-testid="everyone">
  <p class="quiet">who begins</p>
  <p class="px-3 text-center quiet">
    {#if !bank}{drawn.length} ribbons{led.length ? ', dashed through doors' : ''}; a zone on the left tells
      where it may go, one on the right who may come
    {:else if bank.begins}where {bank.name} may go{:else}who may come to {bank.name}{/if}
  </p>
  <p class="text-end quiet">who is reached</p>
  {#each [true, false] as begins (begins)}
    <div style:grid-column={begins ? 1 : 3} style:grid-row={2}>
      {#each zones as zone (zone.name)}
        <Bank
          {zone}
          end={!begins}
          height={LOW}
          chosen={bank?.name === zone.name && bank.begins === begins}
          title={begins ? `where ${zone.name} may go` : `who may come to ${zone.name}`}
          onpick={() => pick(zone.name, begins)}
        />
      {/each}
    </div>
  {/each}
  <div class="relative" style:height={`${height}px`} style:grid-column={2} style:grid-row={2}>
    <svg
      class="absolute inset-0 size-full"
      viewBox={`0 0 100 ${height}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      {#each drawn as r (`${r.from}>${r.to}`)}
        <path
          d={ribbonPath(place.get(r.from)!, place.get(r.to)!)}
          fill="none"
          vector-effect="non-scaling-stroke"
          stroke={`var(--tint-${tintOf(r.from)})`}
          stroke-width={r.text.startsWith('everything') ? 10 : 5}
          opacity={!bank ? 0.3 : isTold(r) ? 0.6 : 0.04}
        />
      {/each}
      {#each led as r (`${r.from}>${r.to}`)}
        <path
          d={ribbonPath(place.get(r.from)!, place.get(r.to)!)}
          fill="none"
          vector-effect="non-scaling-stroke"
          class="door"
          stroke={`var(--tint-${tintOf(r.from)})`}
          stroke-width="4"
          opacity={!bank || isTold(r) ? 0.8 : 0.1}
        />
      {/each}
    </svg>
    {#if bank}
      {@const told = bank}
      {#each zones as other (other.name)}
        {@const from = told.begins ? told.name : other.name}
        {@const to = told.begins ? other.name : told.name}
        {@const r = ribbons.find((x) => x.from === from && x.to === to)}
        {#if r ?? from !== to}
          <div
            class={['absolute flex max-w-[92%] gap-1', told.begins ? 'right-2 justify-end' : 'left-2']}
            style:top={`${place.get(other.name)! - 13}px`}
          >
            <Chips
              {from}
              {to}
              ribbon={r}
              doors={zones.find((z) => z.name === from)?.upstream ? (doors.get(to) ?? []) : []}
              chosen={pair?.from === from && pair.to === to}
              onchoose={() => onchoose({ from, to })}
            />
          </div>
        {/if}
      {/each}
    {/if}
  </div>
</div>

<style>
  .door {
    stroke-dasharray: 10 5;
  }
</style>
