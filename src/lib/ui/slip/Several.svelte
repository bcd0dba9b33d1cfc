<script lang="ts">
  import { findingText } from '#words';
  import { changeClauses, dropStatement, joinChanges } from '#core/edits';
  import { CLAUSES, parseDocument } from '#core/notation';
  import { useSession } from '../../session/index';
  // One edit for all that is selected: a clause said once is written into every statement.
  const session = useSession();
  const statements = $derived(session.nav.selection.flatMap((s) => session.statementOf(s) ?? []));
  let line = $state('');
  let why = $state('');
  const kind = $derived(statements[0]?.kind);
  const alike = $derived(statements.every((s) => s.kind === kind));
  const words = ['off', 'guard', 'advertises'];
  function say() {
    const text = line.trim();
    const gone = /^no (\S+)$/.exec(text)?.[1];
    const name = gone ?? text.split(/\s/)[0] ?? '';
    if (!kind || !text) return;
    if (!CLAUSES[kind].includes(name)) {
      why = `${name} is no clause of ${kind}; there are ${CLAUSES[kind].slice(0, 8).join(', ')} …`;
      return;
    }
    const fault = gone ? undefined : parseDocument(`${kind} x: ${text}`, '').problems.find((p) => p.fatal);
    if (fault) {
      why = findingText(fault);
      return;
    }
    why = '';
    const op = gone ? ({ do: 'remove', name } as const) : ({ do: 'set', name, text } as const);
    const changes = joinChanges(...statements.map((s) => changeClauses(session.site, s, [op])));
    if (session.apply(changes, `${text} for ${statements.length}`)) line = '';
  }
  const switchAll = (off: boolean) =>
    session.apply(
      joinChanges(
        ...statements.map((s) =>
          changeClauses(session.site, s, [
            off ? { do: 'set', name: 'off', text: 'off' } : { do: 'remove', name: 'off' },
          ]),
        ),
      ),
      `${off ? 'off' : 'on'} for ${statements.length}`,
    );
</script>

{#if alike && kind}
  <label for="for-all" class="quiet">A clause for all of them</label>
  <input
    id="for-all"
    class="field mono text-[12px]"
    data-testid="for-all"
    bind:value={line}
    placeholder="answers ping dns"
    spellcheck="false"
    aria-invalid={why !== ''}
    onkeydown={(e) => e.key === 'Enter' && say()}
  />
  {#if why}<p class="text-error">{why}</p>{/if}
  <p class="mt-1 quiet">
    Stands instead of what was there; <span class="mono">no lends</span> takes one away. Words: {words.join(
      ', ',
    )}.
  </p>
  <div class="mt-3 flex gap-2">
    <button class="btn btn-sm" onclick={say}>Write into {statements.length}</button>
    {#if kind === 'interface'}
      <button class="btn btn-sm" onclick={() => switchAll(true)}>All off</button>
      <button class="btn btn-sm" onclick={() => switchAll(false)}>All on</button>
    {/if}
  </div>
{:else}<p class="quiet">They are of several kinds, so one clause cannot be said for all.</p>{/if}
<ul class="mt-4">
  {#each statements as s (s.subject)}
    <li class="flex items-baseline gap-2 py-0.5">
      <button class="link mono text-[12px] link-hover" onclick={() => session.nav.select(s.subject)}
        >{s.subject.replace('/', ' ')}</button
      >
      <button
        class="btn ms-auto h-5 min-h-0 px-1 btn-ghost btn-xs"
        aria-label={`Leave ${s.subject.replace('/', ' ')} out`}
        onclick={() => session.nav.select(...session.nav.selection.filter((x) => x !== s.subject))}>✕</button
      >
    </li>
  {/each}
</ul>
<button
  class="btn mt-3 btn-sm"
  onclick={() => {
    const gone = joinChanges(...statements.map((s) => dropStatement(session.site, s)));
    if (session.apply(gone, `remove ${statements.length} statements`)) session.nav.select();
  }}>Remove all {statements.length}</button
>
