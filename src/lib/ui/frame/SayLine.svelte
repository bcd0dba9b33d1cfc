<script lang="ts">
  import { readSaid } from '#core/edits';
  import { complete } from '#core/notation';
  import { wayTo } from '#core/semantics';
  import { findingText, notSaidText, wayText } from '#words';
  import { useSession } from '../../session/index';
  import type { FindingView } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';

  const session = useSession();
  let input = $state<HTMLInputElement>();
  let caret = $state(0);
  let chosen = $state(0);
  const line = $derived(session.nav.saying ?? '');
  const after = $derived(session.nav.sayingAfter ? session.statementOf(session.nav.sayingAfter) : undefined);
  const said = $derived(readSaid(session.site, line, after));
  const offers = $derived.by(() => {
    const direct = complete(line, caret, session.names());
    if (direct.length || line.includes(' ')) return direct.slice(0, 8);
    const things = [...session.site.interfaces.map((i) => i.name), ...session.site.zones.map((z) => z.name)];
    return things
      .filter((n, i) => line !== '' && n.startsWith(line) && n !== line && things.indexOf(n) === i)
      .slice(0, 8)
      .map((n) => ({ insert: `${n} `, start: 0, about: 'name' as const }));
  });
  /** What the edit would bring and take away, in findings: asked of the worker once the line has rested a moment. */
  let outcome = $state.raw<{ comes: readonly FindingView[]; goes: readonly FindingView[] } | undefined>();
  $effect(() => {
    const asked = said;
    outcome = undefined;
    if (asked.does !== 'edit') return;
    let stale = false;
    const told = (o: typeof outcome) => {
      if (!stale) outcome = o;
    };
    const timer = setTimeout(() => void session.foretell(asked.changes).then(told, session.cannot), 80);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  });
  let answer = $state('');
  async function enter() {
    if (said.does === 'edit') {
      // What undo remembers and says of it holds no secret.
      const label = said.writes.replace(/secret\s+"(?:\\.|[^"\\])*"/g, 'secret …');
      const zone = /^zone (\S+?):/.exec(said.writes)?.[1];
      if (session.apply(said.changes, label)) {
        session.nav.saying = undefined;
        session.nav.newZone = zone;
      }
    } else if (said.does === 'go') {
      session.nav.view = 'board';
      session.nav.select(said.subject);
      session.nav.saying = undefined;
    } else if (said.does === 'ask') {
      const got = await session.trace(said.from, said.to, said.service);
      answer = got.ok ? got.sentence : got.why;
    }
  }
  function take(i: number) {
    const offer = offers[i];
    if (!offer) return;
    session.nav.saying = line.slice(0, offer.start) + offer.insert + line.slice(caret);
    caret = offer.start + offer.insert.length;
    chosen = 0;
    queueMicrotask(() => input?.setSelectionRange(caret, caret));
  }
  function onkeydown(event: KeyboardEvent) {
    if (event.key === 'Enter') {
      event.preventDefault();
      void enter();
    } else if (event.key === 'Tab' && offers.length) {
      event.preventDefault();
      take(chosen);
    } else if (event.key === 'ArrowDown' && offers.length) {
      event.preventDefault();
      chosen = (chosen + 1) % offers.length;
    } else if (event.key === 'ArrowUp' && offers.length) {
      event.preventDefault();
      chosen = (chosen + offers.length - 1) % offers.length;
    }
  }
  $effect(() => input?.focus());
  let panel = $state<HTMLElement>();
  /** A click elsewhere closes it; what was said is there again when it opens. */
  function elsewhere(event: PointerEvent) {
    if (panel && event.target instanceof Node && !panel.contains(event.target))
      session.nav.saying = undefined;
  }
</script>

<svelte:window onpointerdown={elsewhere} />

<div
  bind:this={panel}
  class="panel fixed inset-x-0 bottom-0 z-30 mx-auto mb-36 flex w-[46rem] max-w-[94vw] flex-col-reverse p-3 shadow-xl"
  role="dialog"
  aria-label="say line"
>
  <!-- At the foot, so that neither the field nor the button moves when what is said of it grows. -->
  <div class="flex items-center gap-2">
    <label class="flex flex-1 items-center gap-2">
      <span class="key">/</span>
      <input
        bind:this={input}
        class="field mono text-[0.875rem]"
        data-testid="say"
        spellcheck="false"
        autocomplete="off"
        aria-label="Say a statement, a clause or a question"
        placeholder="studio lends .50-.239 · zone lab: · wheel-pc to www.example tcp 443"
        value={line}
        oninput={(e) => {
          session.nav.saying = e.currentTarget.value;
          caret = e.currentTarget.selectionStart ?? line.length;
          chosen = 0;
          answer = '';
        }}
        onclick={(e) => (caret = e.currentTarget.selectionStart ?? 0)}
        {onkeydown}
      />
    </label>
    {#if said.does === 'edit'}
      <button class="btn btn-sm btn-primary" data-testid="say-write" onclick={() => void enter()}
        >Write it</button
      >
    {/if}
  </div>
  {#if offers.length}
    <ul class="mb-2 flex flex-wrap gap-1" aria-label="completions">
      {#each offers as offer, i (i)}
        <li>
          <button class={['btn mono btn-xs', i === chosen && 'btn-neutral']} onclick={() => take(i)}
            >{offer.insert}</button
          >
        </li>
      {/each}
      <li class="self-center quiet"><span class="key">Tab</span> takes it</li>
    </ul>
  {/if}
  <div class="mb-2" aria-live="polite" data-testid="say-preview">
    {#if said.does === 'edit'}
      <p>
        <span class="quiet">writes</span> <span class="mono">{said.writes}</span> ·
        <span class="key">Enter</span>
      </p>
      {#each outcome?.goes ?? [] as f, i (i)}
        <p class="text-success">✓ mends: {findingText(f)}</p>
      {/each}
      {#each outcome?.comes ?? [] as f, i (i)}
        <p><Weight severity={f.severity} /> {findingText(f)}</p>
      {/each}
    {:else if said.does === 'ask'}
      <p>
        <span class="quiet">asks the bench</span>
        {said.from} to {said.to}
        {said.service ?? 'ping'} · <span class="key">Enter</span>
      </p>
      {#if answer}
        <p class="mt-1 font-semibold" data-testid="say-answer">{answer}</p>
        <button
          class="link text-primary"
          data-testid="say-trace"
          onclick={() => {
            session.nav.view = 'proof';
            session.nav.saying = undefined;
          }}>the whole way, stop by stop</button
        >
      {/if}
    {:else if said.does === 'where'}
      <p class="font-semibold" data-testid="say-answer">
        {wayText(wayTo(session.model.routes, said.table, said.address))}
      </p>
    {:else if said.does === 'go'}
      <p>
        <span class="quiet">opens</span>
        {said.subject.replace('/', ' ')} · <span class="key">Enter</span>
      </p>
    {:else if said.why}<p class="quiet">{notSaidText(said.why)}</p>{/if}
  </div>
</div>
