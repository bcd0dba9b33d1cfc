<script lang="ts">
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  const session = useSession();
  /** Rows drawn at most; the filter finds the rest. */
  const MOST = 200;
  let filter = $state('');
  let only = $state<'all' | 'stopped' | 'asked'>('all');
  const rows = $derived(
    (session.derived?.draft.log ?? []).filter(
      (r) =>
        (only === 'all' || (only === 'stopped' ? !r.good : r.asked)) &&
        (!filter ||
          `${r.zones} ${r.source} ${r.destination} ${r.service} ${r.came} ${r.went} ${r.shown} ${r.end} ${r.subject ?? ''}`.includes(
            filter,
          )),
    ),
  );
  const drawn = gradually(() => rows.slice(0, MOST), 20);
</script>

<section aria-label="log" class="panel p-3" data-testid="log">
  <div class="mb-2 flex flex-wrap items-baseline gap-3">
    <h2 class="h2">Log of the bench</h2>
    <label
      >find <input
        class="field mono w-40"
        bind:value={filter}
        placeholder="udp 53"
        data-testid="log-filter"
      /></label
    >
    {#each [['all', 'everything'], ['stopped', 'only what was stopped'], ['asked', 'only what says log']] as const as [id, text] (id)}
      <label><input type="radio" name="log-only" value={id} bind:group={only} /> {text}</label>
    {/each}
    <span class="quiet">{rows.length} flows</span>
  </div>
  <ol class="max-h-64 overflow-auto">
    {#each drawn.shown as r, i (i)}
      <li class="flex flex-wrap items-baseline gap-x-2 border-t border-base-300 py-0.5">
        <b class="w-40">{r.zones}</b>
        <span class="mono">{r.source} → {r.destination}</span>
        <span class="mono">{r.service}</span>
        <span class="quiet"
          >came by {r.came}{#if r.went}, went by {r.went}{/if}{#if r.shown}, shown as <span class="mono"
              >{r.shown}</span
            >{/if}</span
        >
        <span class={r.good ? '' : 'font-semibold text-error'}>{r.end}</span>
        {#if r.subject && r.line}
          <button
            class="link text-primary"
            onclick={() => {
              session.nav.view = 'board';
              session.nav.select(r.subject!);
            }}>line {r.line}</button
          >
        {/if}
      </li>
    {:else}<li class="quiet">No flow fits.</li>{/each}
  </ol>
  {#if rows.length > MOST}<p class="quiet">The first {MOST}; say what to find.</p>{/if}
</section>
