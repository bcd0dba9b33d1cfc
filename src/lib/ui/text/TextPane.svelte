<script lang="ts">
  import { parseDocument } from '#core/notation';
  import { findingText, mendText } from '#words';
  import { useSession } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';
  let { name, text }: { name: string; text: string } = $props();
  const session = useSession();
  let area = $state<HTMLTextAreaElement>();
  let top = $state(0);
  let caret = $state(0);
  const LINE = 19;
  const lines = $derived(text.split('\n').length);
  const document = $derived(parseDocument(text, name));
  /** The weightiest mark of each line: faults of reading now, findings as they last were. */
  const marks = $derived.by(() => {
    const out: Record<number, 'error' | 'warning' | 'advice'> = {};
    const weight = { error: 2, warning: 1, advice: 0 };
    const add = (line: number, s: 'error' | 'warning' | 'advice') => {
      if (out[line] === undefined || weight[s] > weight[out[line]]) out[line] = s;
    };
    for (const p of document.problems) add(p.at.line, 'error');
    for (const f of session.findings) if (f.file === name && f.code !== 'syntax') add(f.at.line, f.severity);
    return out;
  });
  const caretLine = $derived(text.slice(0, caret).split('\n').length);
  const here = $derived(document.statements.find((s) => caret >= s.start && caret <= s.end + 1));
  const told = $derived([
    ...document.problems
      .filter((p) => p.at.line === caretLine || (here && p.at.start >= here.start && p.at.start <= here.end))
      .map((p) => ({
        severity: 'error' as const,
        line: p.at.line,
        column: p.at.column,
        text: findingText({ code: p.code, values: p.values }),
        mends: p.proposal
          ? [
              {
                label: `write ${p.proposal.text.trim() || 'nothing'}`,
                go: () => put(p.proposal!.at.start, p.proposal!.at.end, p.proposal!.text),
              },
            ]
          : [],
      })),
    ...session.findings
      .filter(
        (f) =>
          f.file === name &&
          here &&
          f.subject === here.subject &&
          !document.problems.some((p) => p.code === f.code && p.at.start === f.at.start),
      )
      .map((f) => ({
        severity: f.severity,
        line: f.at.line,
        column: f.at.column,
        text: findingText(f),
        mends: f.mends.map((m, i) => ({ label: mendText(m), go: () => session.mend(f, i, mendText(m)) })),
      })),
  ]);
  /** Replaces a stretch of the text as it stands. */
  const put = (start: number, end: number, by: string) =>
    session.setText(name, text.slice(0, start) + by + text.slice(end), 'mend');
  const faults = $derived(document.problems.filter((p) => p.fatal).length);
  function oninput(event: Event & { currentTarget: HTMLTextAreaElement }) {
    caret = event.currentTarget.selectionStart;
    if (here) session.beginTyping(here.subject);
    // The area shows LF; a file that came with CRLF keeps it.
    const value = event.currentTarget.value;
    session.setText(name, /\r\n/.test(text) ? value.replace(/\r?\n/g, '\r\n') : value, `type in ${name}`);
  }
</script>

<section class="panel flex min-h-0 flex-col" aria-label={name}>
  <h2 class="flex items-baseline gap-2 border-b border-base-300 px-3 py-1.5 font-semibold">
    {name} <span class="font-normal quiet">{lines} lines{faults ? `, ${faults} cannot be read` : ''}</span>
  </h2>
  <div class="relative flex min-h-0 flex-1 overflow-hidden">
    <div class="gutter mono" aria-hidden="true">
      <div style:transform={`translateY(${-top}px)`}>
        {#each { length: lines }, i (i)}
          <div class="no" style:height={`${LINE}px`}>
            {#if marks[i + 1]}<Weight severity={marks[i + 1]!} />{/if}<span
              class={caretLine === i + 1 ? 'font-bold' : 'quiet'}>{i + 1}</span
            >
          </div>
        {/each}
      </div>
    </div>
    <textarea
      bind:this={area}
      class="area mono"
      data-testid={`text-${name}`}
      aria-label={`Text of ${name}`}
      spellcheck="false"
      wrap="off"
      value={text.replace(/\r\n/g, '\n')}
      {oninput}
      onscroll={(e) => (top = e.currentTarget.scrollTop)}
      onselect={(e) => (caret = e.currentTarget.selectionStart)}
      onkeyup={(e) => (caret = e.currentTarget.selectionStart)}
      onclick={(e) => (caret = e.currentTarget.selectionStart)}
      onblur={() => session.restTyping()}></textarea>
  </div>
  <div class="max-h-32 min-h-9 overflow-auto border-t border-base-300 px-3 py-1.5" aria-live="polite">
    {#each told as t, i (i)}
      <p>
        <Weight severity={t.severity} />
        <span class="quiet">{t.line}:{t.column}</span>
        {t.text}
        {#each t.mends as m, j (j)}<button class="link ms-2 text-primary" onclick={m.go}>{m.label}</button
          >{/each}
      </p>
    {:else}
      <p class="quiet">{here ? here.subject.replace('/', ' ') : `line ${caretLine}`}</p>
    {/each}
  </div>
</section>

<style>
  .gutter {
    width: 56px;
    flex: none;
    overflow: hidden;
    background: var(--color-base-200);
    border-right: 1px solid var(--color-base-300);
    padding-top: 8px;
    font-size: 12.5px;
  }
  .no {
    display: flex;
    justify-content: flex-end;
    gap: 6px;
    padding-right: 8px;
    line-height: 19px;
  }
  .area {
    flex: 1;
    resize: none;
    padding: 8px 10px;
    font-size: 12.5px;
    line-height: 19px;
    white-space: pre;
    overflow: auto;
    background: transparent;
  }
  .area:focus-visible {
    outline-offset: -3px;
  }
</style>
