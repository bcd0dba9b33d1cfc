<script lang="ts">
  import { endOfLine, maskSecrets, parseDocument } from '#core/notation';
  import type { Statement } from '#core/notation';
  import { findingText } from '#words';
  import { useSession } from '../../session/index';
  // The statement itself, editable: every keystroke is the text. While it cannot be read, it counts as it last could.
  let { statement }: { statement: Statement } = $props();
  const session = useSession();
  /** The statement's stretch in the real text; the site may hold an older form of it. */
  const place = $derived.by(() => {
    const file = session.files.find((f) => f.name === statement.file)!;
    const real = session.realStatement(statement.file, statement.subject);
    return real ? { file, start: real.start, end: real.end, faults: real.faults } : undefined;
  });
  /** What is in the field and not written, since it is no statement of this kind yet. */
  const held = $derived(session.unwritten[statement.subject]);
  const written = $derived(place ? place.file.text.slice(place.start, place.end).replace(/\r\n/g, '\n') : '');
  const text = $derived(held ?? written);
  /** Secrets are dots until somebody edits here. */
  let focused = $state(false);
  const rows = $derived(Math.min(12, Math.max(3, text.split('\n').length + Math.floor(text.length / 34))));
  function oninput(event: Event & { currentTarget: HTMLTextAreaElement }) {
    if (!place) return;
    // An empty line would end the statement, so none is let in.
    const eol = endOfLine(place.file.text);
    const next = event.currentTarget.value
      .replace(/\n(?=[^\s])/g, '\n  ')
      .replace(/\n[ \t]*(?=\n)/g, '')
      .replace(/\n/g, eol);
    // Only one statement of this kind stands for it: a field that was emptied or overtyped writes nothing.
    const read = parseDocument(next, statement.file);
    const [only] = read.statements;
    if (read.statements.length !== 1 || only!.kind !== statement.kind || only!.start !== 0) {
      session.keepUnwritten(statement.subject, event.currentTarget.value);
      return;
    }
    session.keepUnwritten(statement.subject, undefined);
    session.beginTyping(statement.subject);
    session.setText(
      statement.file,
      place.file.text.slice(0, place.start) + next + place.file.text.slice(place.end),
      `edit ${statement.subject.replace('/', ' ')}`,
    );
    // A new name makes a new subject; the slip stays with its statement.
    const subject = session.subjectAt(statement.file, place.start);
    if (subject && subject !== statement.subject && session.statementOf(subject)) session.nav.select(subject);
  }
</script>

<textarea
  class="field mono resize-y text-[12.5px] leading-[19px]"
  data-testid="statement"
  aria-label={`Statement of ${statement.subject.replace('/', ' ')}`}
  aria-invalid={!!place?.faults.length}
  spellcheck="false"
  {rows}
  value={focused ? text : maskSecrets(text)}
  onfocus={() => (focused = true)}
  {oninput}
  onkeydown={(e) => {
    if (e.key !== 'Escape' || held === undefined) return;
    e.stopPropagation();
    session.keepUnwritten(statement.subject, undefined);
  }}
  onblur={() => {
    focused = false;
    session.restTyping();
  }}></textarea>
{#if held !== undefined}
  <p class="mt-1 text-error" data-testid="statement-unwritten">
    This is no {statement.kind} statement, so nothing is written; the one before stands.
    <button class="link text-primary" onclick={() => session.keepUnwritten(statement.subject, undefined)}
      >Give it back</button
    > <span class="key">Esc</span>
  </p>
{/if}
{#each place?.faults ?? [] as fault, i (i)}
  <p class="mt-1 text-error" data-testid="statement-fault">
    line {fault.at.line}, column {fault.at.column}: {findingText({ code: fault.code, values: fault.values })}
    {#if fault.proposal}
      <button
        class="link text-primary"
        onclick={() => {
          if (!place || !fault.proposal) return;
          const { start, end } = fault.proposal.at;
          session.setText(
            statement.file,
            place.file.text.slice(0, start) + fault.proposal.text + place.file.text.slice(end),
            'mend',
          );
        }}>write {fault.proposal.text.trim() || 'nothing'}</button
      >
    {/if}
  </p>
{/each}
