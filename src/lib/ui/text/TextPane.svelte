<script lang="ts">
  import { onMount } from 'svelte';
  import type { Diagnostic } from '@codemirror/lint';
  import { plausibleValues } from '#core/model';
  import { findingText, mendText } from '#words';
  import { parsed, useSession } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';
  import type { Editor } from './editor';
  import { factsAbout } from './facts';
  import { toPosition } from './positions';
  let { name, text }: { name: string; text: string } = $props();
  const session = useSession();
  let host = $state<HTMLElement & { value?: string }>();
  let editor = $state.raw<Editor>();
  let caret = $state(0);
  /** The editor did not come: nobody answers where the page is from. */
  let away = $state(false);
  const lines = $derived(text.split('\n').length);
  const document = $derived(parsed(text, name));
  const caretLine = $derived(text.slice(0, caret).split('\n').length);
  const here = $derived(document.statements.find((s) => caret >= s.start && caret <= s.end + 1));
  const faults = $derived(document.problems.filter((p) => p.fatal).length);
  /** Replaces a stretch of the text as it stands. */
  const put = (start: number, end: number, by: string) =>
    session.setText(name, text.slice(0, start) + by + text.slice(end), 'mend');
  /** Faults of reading now, and findings as they last were, each with its mends. */
  const told = $derived([
    ...document.problems.map((p) => ({
      severity: 'error' as const,
      at: p.at,
      subject: p.subject,
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
          f.file === name && !document.problems.some((p) => p.code === f.code && p.at.start === f.at.start),
      )
      .map((f) => ({
        severity: f.severity,
        at: f.at,
        subject: f.subject,
        text: findingText(f),
        mends: f.mends.map((m, i) => ({ label: mendText(m), go: () => session.mend(f, i, mendText(m)) })),
      })),
  ]);
  const near = $derived(
    told.filter(
      (t) =>
        t.at.line === caretLine ||
        (here && (t.subject === here.subject || (t.at.start >= here.start && t.at.start <= here.end))),
    ),
  );
  const zones = $derived(
    session.site.zones
      .map((z) => ({
        name: z.name,
        statements: document.statements.filter(
          (s) =>
            (s.kind === 'interface' && s.zone?.name === z.name) ||
            (s.kind === 'passage' && s.from.name === z.name),
        ),
      }))
      .filter((z) => z.statements.length),
  );

  // The editor comes when the view opens: it is the largest part of the page.
  async function load(root: ShadowRoot, isGone: () => boolean) {
    away = false;
    try {
      const { createEditor, statementAt } = await import('./editor');
      if (isGone()) return;
      const inner = root.appendChild(globalThis.document.createElement('div'));
      inner.style.height = '100%';
      const made = createEditor(inner, root, {
        label: `Text of ${name}`,
        text: () => session.files.find((f) => f.name === name)?.text ?? '',
        document: () => document,
        names: () => session.names(),
        plausible: (statement, clause) => plausibleValues(session.model, statement, clause),
        facts: (statement, word) =>
          factsAbout(session.site, session.wiring, session.prospects, statement, word),
        typed: (next, statement) => {
          if (statement) session.beginTyping(statement.subject);
          session.setText(name, next, `type in ${name}`);
        },
        caret: (offset) => (caret = offset),
        undo: () => session.undo(),
        redo: () => session.redo(),
        left: () => session.restTyping(),
        toBoard: () => {
          const statement = statementAt(document, caret);
          if (!statement) return;
          session.nav.view = 'board';
          session.nav.select(statement.subject);
        },
      });
      editor = made;
    } catch {
      away = true;
    }
  }
  let again = () => {};
  onMount(() => {
    let gone = false;
    const root = host!.attachShadow({ mode: 'open' });
    again = () => void load(root, () => gone);
    again();
    return () => {
      gone = true;
      editor?.destroy();
    };
  });
  $effect(() => {
    if (host) host.value = text;
    if (text !== undefined) editor?.sync();
  });
  $effect(() => {
    if (!editor) return;
    const end = toPosition(text, text.length);
    editor.mark(
      told.map((t): Diagnostic => ({
        from: Math.min(toPosition(text, t.at.start), end),
        to: Math.min(toPosition(text, t.at.end), end),
        severity: t.severity === 'advice' ? 'info' : t.severity,
        message: t.text,
        actions: t.mends.map((m) => ({ name: m.label, apply: () => void m.go() })),
      })),
    );
  });
  // Somebody on the board asked for the text of a statement.
  $effect(() => {
    const wanted = session.nav.reveal;
    if (!editor || !wanted || wanted.file !== name) return;
    editor.reveal(wanted.offset);
    session.nav.reveal = undefined;
  });
</script>

<section class="panel flex min-h-0 flex-col" aria-label={name}>
  <h2 class="flex items-baseline gap-2 border-b border-base-300 px-3 py-1.5 font-semibold">
    {name} <span class="font-normal quiet">{lines} lines{faults ? `, ${faults} cannot be read` : ''}</span>
    {#if zones.length}
      <span class="ms-auto flex flex-wrap justify-end gap-x-1 font-normal">
        <span class="quiet">fold</span>
        {#each zones as z (z.name)}
          <button
            class="btn h-5 min-h-0 px-1 btn-ghost btn-xs"
            title={`Fold or unfold what belongs to ${z.name}`}
            data-testid={`fold-zone-${z.name}`}
            onclick={() => editor?.fold(z.statements)}>{z.name}</button
          >
        {/each}
      </span>
    {/if}
  </h2>
  <div
    bind:this={host}
    class="min-h-0 flex-1 overflow-hidden"
    data-testid={`text-${name}`}
    data-editor
    hidden={away}
  ></div>
  {#if away}
    <div class="min-h-0 flex-1 overflow-auto px-3 py-1.5" role="alert">
      <p class="text-error">
        The editor could not be fetched. The text stands; it can be read here, and edited on the board and the
        say line.
        <button class="link" onclick={() => again()}>Try again</button>
      </p>
      <pre class="mono">{text}</pre>
    </div>
  {/if}
  <div class="max-h-32 min-h-9 overflow-auto border-t border-base-300 px-3 py-1.5" aria-live="polite">
    {#each near as t, i (i)}
      <p>
        <Weight severity={t.severity} />
        <span class="quiet">{t.at.line}:{t.at.column}</span>
        {t.text}
        {#each t.mends as m, j (j)}<button class="link ms-2 text-primary" onclick={m.go}>{m.label}</button
          >{/each}
      </p>
    {:else}
      <p class="quiet">
        {here ? here.subject.replace('/', ' ') : `line ${caretLine}`}{#if here}
          · <span class="key">Ctrl+Enter</span> shows it on the board{/if}
        · <span class="key">Ctrl+F</span> finds and replaces
      </p>
    {/each}
  </div>
</section>
