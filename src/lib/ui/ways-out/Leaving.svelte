<script lang="ts">
  import { moveStatement } from '#core/edits';
  import type { Taken } from '#core/model';
  import type { Statement } from '#core/notation';
  import { textOf } from '#core/edits';
  import { useSession } from '../../session/index';
  // Who leaves by what, in order: statements of sending and of leaving, with what each is the first to take.
  let { kind, taken }: { kind: 'leave' | 'send'; taken: ReadonlyMap<Statement, readonly Taken[]> } = $props();
  const session = useSession();
  const list = $derived<readonly Statement[]>(kind === 'leave' ? session.site.leaves : session.site.sends);
  const HEADS = {
    leave: ['Leaving addresses', 'source NAT: the first that fits decides what the outside sees'],
    send: ['Sent by a chosen uplink', 'policy routes: asked before the order above'],
  } as const;
  let carried = $state<number | undefined>();

  function move(from: number, to: number) {
    const [it, place] = [list[from], list[to]];
    if (!it || !place || it === place) return;
    const changes = moveStatement(session.site, it, to < from ? { before: place } : { after: place });
    const label = `move line ${it.line} ${to < from ? 'before' : 'behind'} line ${place.line}`;
    if (session.apply(changes, label)) queueMicrotask(() => focusRow(to));
  }
  let rows = $state<HTMLElement>();
  const focusRow = (i: number) =>
    setTimeout(() => rows?.querySelectorAll<HTMLElement>('[data-row]')[i]?.focus());
  /** Networks that go out by the same uplinks are told together. */
  const takesText = (takes: readonly Taken[]): string => {
    const by: Record<string, string[]> = {};
    for (const t of takes) (by[t.out.join(', ')] ??= []).push(`${t.whole ? '' : 'part of '}${t.interface}`);
    return Object.entries(by)
      .map(([out, who]) => `${who.join(', ')}${kind === 'leave' ? ` by ${out}` : ''}`)
      .join('; ');
  };
</script>

<section class="when-near panel p-3" aria-label={HEADS[kind][0]} data-testid={`${kind}s`}>
  <div class="flex items-baseline gap-2">
    <h2 class="h2">{HEADS[kind][0]}</h2>
    <span class="mono text-[12px] quiet">{kind}</span>
    <span class="quiet">{HEADS[kind][1]}</span>
    <button
      class="btn ms-auto btn-xs"
      data-testid={`add-${kind}`}
      onclick={() => session.nav.make(kind === 'leave' ? 'leave-as' : 'send')}>+ add</button
    >
  </div>
  <ol class="mt-1" bind:this={rows}>
    {#each list as s, i (s.subject)}
      {@const takes = taken.get(s) ?? []}
      <li
        class={['flex items-baseline gap-2 border-t border-base-300 py-0.5', carried === i && 'opacity-60']}
        draggable="true"
        ondragstart={(e) => {
          carried = i;
          e.dataTransfer?.setData('text/plain', s.subject);
        }}
        ondragend={() => (carried = undefined)}
        ondragover={(e) => e.preventDefault()}
        ondrop={(e) => {
          e.preventDefault();
          if (carried !== undefined) move(carried, i);
          carried = undefined;
        }}
      >
        <span class="w-5 text-end quiet">{i + 1}</span>
        <button
          data-row
          class="mono cursor-pointer text-start text-[12.5px] hover:underline"
          data-testid={`${kind}-row-${i}`}
          onclick={() => session.nav.select(s.subject)}
          onkeydown={(e) => {
            if (!e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return;
            e.preventDefault();
            move(i, i + (e.key === 'ArrowUp' ? -1 : 1));
          }}>{textOf(session.site, s)}</button
        >
        <span class={takes.length ? 'quiet' : 'font-semibold text-warning'}
          >{takes.length ? `takes ${takesText(takes)}` : '▲ takes nothing that an earlier one leaves'}</span
        >
        <span class="ms-auto flex flex-none">
          <button
            class="px-1"
            disabled={i === 0}
            aria-label={`line ${s.line} further up`}
            onclick={() => move(i, i - 1)}>↑</button
          ><button
            class="px-1"
            disabled={i === list.length - 1}
            aria-label={`line ${s.line} further down`}
            onclick={() => move(i, i + 1)}>↓</button
          >
        </span>
      </li>
    {:else}
      <li class="quiet">
        {kind === 'leave'
          ? 'Nothing is written: private networks keep their own addresses, and the provider drops them.'
          : 'Nobody is sent another way than by the order of the uplinks.'}
      </li>
    {/each}
  </ol>
</section>
