<script lang="ts">
  import { bookRows } from '#core/formats/site-book';
  import { bookHtml, bookOf, endText, findingText, isBooked, promiseText } from '#words';
  import type { BookTable } from '#words';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import { saveFile } from '../save';
  // The site book: one page for the folder, to print or to save as a file by itself.
  const session = useSession();
  const proved = $derived(session.derived);
  const book = $derived.by(() => {
    const reach = proved?.reach;
    return bookOf(bookRows(session.model), {
      site: session.name,
      reach: (reach?.cells ?? []).flatMap((c) => {
        const [from, to] = [reach?.sources[c.from], reach?.destinations[c.to]];
        return !from || !to || c.verdict === 'none' || !isBooked(from) || !isBooked(to)
          ? []
          : [{ from: endText(from), to: endText(to), what: c.text, as: c.leavesAs ?? '' }];
      }),
      promises: (proved?.draft.promises ?? []).map((p) => ({
        text: p.text,
        holds: p.result === 'pass',
        why: promiseText(p),
      })),
      findings: session.findings.map((f) => ({
        severity: f.severity,
        where: f.subject.replace('/', ' '),
        text: findingText(f),
      })),
    });
  });
  type Part = { head: string; lines: readonly string[]; t?: BookTable & { caption?: string } };
  /** Rows of a table that are drawn in one frame; a longer table goes on in another with the same heads. */
  const ROWS = 60;
  /** Sections, their tables, and long tables in pieces. */
  const parts = $derived(
    book.sections.flatMap((s): Part[] => {
      const first = { head: s.head, lines: s.lines };
      const pieces = s.tables.flatMap((t) =>
        Array.from({ length: Math.max(1, Math.ceil(t.rows.length / ROWS)) }, (_, n) => ({
          ...t,
          caption: n ? undefined : t.caption,
          rows: t.rows.slice(n * ROWS, (n + 1) * ROWS),
        })),
      );
      if (!pieces.length) return [first];
      return pieces.map((t, n) => ({ ...(n ? { head: '', lines: [] } : first), t }));
    }),
  );
  const drawn = gradually(() => parts);
  const file = $derived(
    `${session.name.replaceAll(/[^A-Za-z0-9-]+/g, '-').toLowerCase() || 'site'}-book.html`,
  );
</script>

<div class="book mx-auto max-w-[1000px] p-4" data-testid="book">
  <div class="tools mb-3 flex items-center gap-2">
    <span class="quiet">of the draft; secrets are not in it</span>
    <button class="btn ms-auto btn-sm" onclick={() => window.print()} data-testid="book-print">Print …</button
    >
    <button
      class="btn btn-sm btn-primary"
      data-testid="book-save"
      onclick={() => saveFile(file, bookHtml(book), 'text/html')}>Save as one HTML file</button
    >
  </div>
  <article class="panel p-6">
    <h1 class="text-2xl font-semibold">{book.title}</h1>
    {#each book.about as line (line)}<p>{line}</p>{/each}
    {#each drawn.shown as part, p (p)}<div class="when-near" style:--high="600px">
        {#if part.head}<h2>{part.head}</h2>{/if}
        {#each part.lines as line (line)}<p>{line}</p>{/each}
        {#if part.t}
          <table>
            {#if part.t.caption}<caption>{part.t.caption}</caption>{/if}
            <thead
              ><tr
                >{#each part.t.heads as head, h (h)}<th scope="col">{head}</th>{/each}</tr
              ></thead
            >
            <tbody>
              {#each part.t.rows as row, r (r)}<tr
                  >{#each row as cell, c (c)}<td>{cell}</td>{/each}</tr
                >{/each}
            </tbody>
          </table>
        {/if}
      </div>{/each}
  </article>
</div>

<style>
  h2 {
    margin: 1.75rem 0 0.5rem;
    font-size: 1.125rem;
    font-weight: 650;
    break-after: avoid;
  }
  table {
    width: 100%;
    margin: 0.5rem 0 1rem;
    border-collapse: collapse;
  }
  caption {
    padding: 4px 0;
    font-weight: 600;
    text-align: start;
    break-after: avoid;
  }
  tr {
    break-inside: avoid;
  }
  th,
  td {
    padding: 3px 8px 3px 0;
    border-bottom: 1px solid var(--color-base-300);
    text-align: start;
    vertical-align: top;
    overflow-wrap: break-word;
  }
  th {
    color: var(--quiet);
    font-weight: 500;
  }
</style>
