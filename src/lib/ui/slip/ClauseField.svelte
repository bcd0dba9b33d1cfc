<script lang="ts">
  import { findingText } from '#words';
  import { clausesOf, parseDocument } from '#core/notation';
  import type { Statement } from '#core/notation';
  import { documentOf } from '#core/site';
  import { useSession } from '../../session/index';
  // One clause as a field. What cannot be read stays in the field, with the reason, until it is mended or let go.
  let {
    statement,
    name,
    label,
    onset,
  }: { statement: Statement; name: string; label: string; onset: (text: string) => void } = $props();
  const session = useSession();
  const clauses = $derived(clausesOf(statement, name));
  const there = $derived.by(() => {
    const first = clauses[0];
    return first
      ? documentOf(session.site, statement).text.slice(first.words[1]?.start ?? first.end, first.end)
      : '';
  });
  let draft = $state<string | undefined>();
  let why = $state('');
  const value = $derived(draft ?? there);
  const id = $derived(`clause-${name}`);
  function commit() {
    if (draft === undefined || draft === there) {
      draft = undefined;
      why = '';
      return;
    }
    if (draft.trim() !== '') {
      const address =
        name === 'address'
          ? undefined
          : session.site.documents.length
            ? clausesOf(statement, 'address')[0]
            : undefined;
      const base = address
        ? `${documentOf(session.site, statement).text.slice(address.start, address.end)}, `
        : '';
      const read = parseDocument(`${statement.kind} x: ${base}${name} ${draft}`, '');
      const fault = read.problems[0];
      if (fault) {
        why = findingText(fault);
        return;
      }
    }
    why = '';
    const text = draft;
    draft = undefined;
    onset(text);
  }
</script>

<label for={id} class="quiet">{label}</label>
<div>
  <input
    {id}
    class="field mono text-[12px]"
    list={name === 'zone' ? 'zones' : undefined}
    spellcheck="false"
    autocomplete="off"
    {value}
    disabled={clauses.length > 1}
    title={clauses.length > 1 ? `${clauses.length} clauses: edit them in the statement above` : undefined}
    aria-invalid={why !== ''}
    aria-describedby={why ? `${id}-why` : undefined}
    oninput={(e) => (draft = e.currentTarget.value)}
    onkeydown={(e) => {
      if (e.key === 'Enter') commit();
      else if (e.key === 'Escape') {
        draft = undefined;
        why = '';
        e.stopPropagation();
      }
    }}
    onblur={commit}
  />
  {#if why}<p id={`${id}-why`} class="text-error">{why}</p>{/if}
  {#if name === 'zone'}
    <datalist id="zones"
      >{#each session.site.zones as z (z.name)}<option value={z.name}></option>{/each}</datalist
    >
  {/if}
</div>
