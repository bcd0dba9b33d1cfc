<script lang="ts">
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import type { Row } from './rows';
  // Rows that are filtered, sorted, copied and taken away as they are shown.
  let {
    name,
    heads,
    rows,
    filter,
    empty = 'None.',
  }: {
    name: string;
    heads: readonly string[];
    rows: readonly Row[];
    filter: string;
    empty?: string;
  } = $props();
  const session = useSession();
  /** Rows drawn at most; the filter finds the rest. */
  const MOST = 400;
  let by = $state<number | undefined>();
  let down = $state(false);
  const collator = new Intl.Collator('en', { numeric: true });
  const shown = $derived.by(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
    const kept = rows.filter((r) => {
      const text = r.cells.join(' ').toLowerCase();
      return words.every((w) => text.includes(w));
    });
    if (by === undefined) return kept;
    const column = by;
    const sorted = [...kept].sort((a, b) => collator.compare(a.cells[column] ?? '', b.cells[column] ?? ''));
    return down ? sorted.reverse() : sorted;
  });
  const drawn = gradually(() => shown.slice(0, MOST), 20);
  function sort(column: number) {
    if (by !== column) [by, down] = [column, false];
    else if (!down) down = true;
    else by = undefined;
  }
  /** A cell that a spreadsheet would take for a sum is text (a leading quote). */
  const plain = (text: string) => (/^[=+@\t\r-]/.test(text) && !/^-?[\d.]+$/.test(text) ? `'${text}` : text);
  const tabbed = $derived(
    [heads, ...shown.map((r) => r.cells)]
      .map((r) => r.map((c) => plain(c.replace(/[\t\r\n]+/g, ' '))).join('\t'))
      .join('\n'),
  );
  let copied = $state(false);
  async function copy() {
    try {
      await navigator.clipboard.writeText(tabbed);
      copied = true;
      setTimeout(() => (copied = false), 2000);
    } catch {
      session.notice = 'The browser does not let this page copy; take the CSV instead.';
    }
  }
  /** RFC 4180: a field with a quote, a comma or a line end stands in quotes. */
  const field = (text: string) => {
    const safe = plain(text);
    return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  function csv() {
    const text = [heads, ...shown.map((r) => r.cells)].map((r) => r.map(field).join(',')).join('\r\n');
    const url = URL.createObjectURL(new Blob([`${text}\r\n`], { type: 'text/csv' }));
    const link = document.createElement('a');
    link.href = url;
    link.download = `${session.name}-${name}.csv`.toLowerCase().replace(/[^\w.-]+/g, '-');
    link.click();
    setTimeout(() => URL.revokeObjectURL(url), 10_000);
  }
</script>

<div class="mb-1 flex items-baseline gap-2">
  <span class="quiet" data-testid="rows-{name}"
    >{shown.length === rows.length
      ? `${rows.length} row${rows.length === 1 ? '' : 's'}`
      : `${shown.length} of ${rows.length} rows`}</span
  >
  <button class="btn ms-auto btn-ghost btn-xs" onclick={copy} data-testid="copy-{name}"
    >{copied ? 'copied' : 'copy'}</button
  >
  <button class="btn btn-ghost btn-xs" onclick={csv} data-testid="csv-{name}">CSV</button>
</div>
{#if !rows.length}<p class="panel p-3 quiet">{empty}</p>
{:else}
  <div class="overflow-x-auto panel">
    <table class="w-full text-start text-[13px]" data-testid="table-{name}">
      <thead>
        <tr>
          {#each heads as h, i (h)}
            <th class="px-3 py-1 text-start" aria-sort={by !== i ? 'none' : down ? 'descending' : 'ascending'}
              ><button class="font-semibold hover:underline" onclick={() => sort(i)}
                >{h}{by !== i ? '' : down ? ' ▾' : ' ▴'}</button
              ></th
            >
          {/each}
          <th class="px-3 py-1 text-start font-semibold">said by</th>
        </tr>
      </thead>
      <tbody>
        {#each drawn.shown as r, n (n)}
          <tr class="border-t border-base-300">
            {#each r.cells as c, i (i)}
              <td class={['mono px-3 py-0.5 text-[12.5px]', r.bad && 'font-semibold text-error']}>{c}</td>
            {/each}
            <td class="px-3 py-0.5">
              {#if r.subject && session.statementOf(r.subject)}
                <button
                  class="link text-primary"
                  onclick={() => {
                    session.nav.view = 'board';
                    session.nav.select(r.subject!);
                  }}>{r.subject.replace('/', ' ')}</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if shown.length > MOST}<p class="quiet">The first {MOST}; say what to find.</p>{/if}
{/if}
