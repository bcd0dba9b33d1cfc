<script lang="ts">
  import { readSaid } from '#core/edits';
  import type { GestureId } from '#core/edits';
  import { complete } from '#core/notation';
  import { wayTo } from '#core/semantics';
  import { GESTURE_LABELS, notSaidText, wantsFor, wayText } from '#words';
  import { useSession } from '../../session/index';
  import Outcome from '../making/Outcome.svelte';
  import { deskStopText } from '../ladder/ladders';

  const session = useSession();
  let input = $state<HTMLInputElement>();
  let caret = $state(0);
  let chosen = $state(0);
  let chosenWant = $state(0);
  const line = $derived(session.nav.saying ?? '');
  const said = $derived(readSaid(session.site, line));
  const offers = $derived.by(() => {
    const direct = complete(line, caret, session.names());
    if (direct.length || line.includes(' ')) return direct.slice(0, 8);
    const things = [...session.site.interfaces.map((i) => i.name), ...session.site.zones.map((z) => z.name)];
    return things
      .filter((n, i) => line !== '' && n.startsWith(line) && n !== line && things.indexOf(n) === i)
      .slice(0, 8)
      .map((n) => ({ insert: `${n} `, start: 0, about: 'name' as const }));
  });
  /** What could be wanted by these words, where they are no statement and no change. */
  const wants = $derived(
    said.does === 'edit' || said.does === 'go' || said.does === 'where' ? [] : wantsFor(line),
  );
  const tag = $derived(/(?:vlan|tag)\s*(\d{1,4})\b/i.exec(line)?.[1]);
  const make = (id: GestureId) => session.nav.make(id, tag === undefined ? {} : { tag });
  let answer = $state('');
  /** What stops the one who asks before any page: a name that nobody answers, say. */
  const trouble = $derived(said.does === 'ask' ? deskStopText(session.derived?.draft, said.from) : '');
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
    } else if (said.does === 'nothing' && wants[chosenWant]) make(wants[chosenWant]!);
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
    } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      const by = event.key === 'ArrowDown' ? 1 : -1;
      event.preventDefault();
      if (offers.length) chosen = (chosen + by + offers.length) % offers.length;
      else if (wants.length) chosenWant = (chosenWant + by + wants.length) % wants.length;
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
        role="combobox"
        aria-expanded={offers.length > 0 || wants.length > 0}
        aria-controls="say-offers"
        aria-activedescendant={offers.length
          ? `say-offer-${chosen}`
          : wants.length && said.does === 'nothing'
            ? `say-want-${chosenWant}`
            : undefined}
        spellcheck="false"
        autocomplete="off"
        aria-label="Say a statement, a change, a question, or what you want"
        placeholder="port forwarding · VLAN 70 · studio lends .50-.239 · why can wheel-pc not open www.example?"
        value={line}
        oninput={(e) => {
          session.nav.saying = e.currentTarget.value;
          caret = e.currentTarget.selectionStart ?? line.length;
          chosen = chosenWant = 0;
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
    <div class="mb-2 flex flex-wrap items-center gap-1">
      <ul id="say-offers" role="listbox" class="contents" aria-label="completions">
        {#each offers as offer, i (i)}
          <li role="none" class="contents">
            <button
              id={`say-offer-${i}`}
              role="option"
              aria-selected={i === chosen}
              tabindex="-1"
              class={['btn mono btn-xs', i === chosen && 'btn-neutral']}
              onclick={() => take(i)}>{offer.insert}</button
            >
          </li>
        {/each}
      </ul>
      <span class="quiet"><span class="key">Tab</span> takes it</span>
    </div>
  {/if}
  <div class="mb-2" aria-live="polite" data-testid="say-preview">
    {#if said.does === 'edit'}
      <p>
        <span class="quiet">writes</span> <span class="mono">{said.writes}</span> ·
        <span class="key">Enter</span>
      </p>
      <Outcome changes={said.changes} />
    {:else if said.does === 'ask'}
      <p>
        <span class="quiet">asks the bench</span>
        {said.from} to {said.to}
        {said.service ?? 'ping'} · <span class="key">Enter</span>
      </p>
      {#if answer}
        <p class="mt-1 font-semibold" data-testid="say-answer">{answer}</p>
        {#if trouble}<p data-testid="say-trouble">{trouble}</p>{/if}
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
        {wayText(wayTo(session.model.routes, session.model.rules.shares, said.table, said.address))}
      </p>
    {:else if said.does === 'go'}
      <p>
        <span class="quiet">opens</span>
        {said.subject.replace('/', ' ')} · <span class="key">Enter</span>
      </p>
    {:else if said.why && !wants.length}<p class="quiet">{notSaidText(said.why)}</p>{/if}
    {#if wants.length}
      <ul
        id={offers.length ? undefined : 'say-offers'}
        role="listbox"
        class="mt-1"
        aria-label="what could be wanted"
        data-testid="say-wants"
      >
        {#each wants as id, i (id)}
          <li role="none">
            <button
              id={`say-want-${i}`}
              role="option"
              aria-selected={i === chosenWant && said.does === 'nothing'}
              tabindex="-1"
              class={[
                'w-full rounded px-2 py-0.5 text-start',
                i === chosenWant && said.does === 'nothing' && 'bg-accent text-accent-content',
              ]}
              data-testid={`say-want-${id}`}
              onclick={() => make(id)}
              ><b class="font-medium">{GESTURE_LABELS[id].says}</b>
              <span class="quiet">{GESTURE_LABELS[id].about}</span></button
            >
          </li>
        {/each}
      </ul>
      {#if said.does === 'nothing'}<p class="quiet"><span class="key">Enter</span> begins it</p>{/if}
    {/if}
  </div>
</div>
