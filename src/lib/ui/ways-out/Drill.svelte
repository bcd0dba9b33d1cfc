<script lang="ts">
  import { addStatement } from '#core/edits';
  import { boxNames } from '#core/site';
  import { DRILL_DEEDS, MOST_SECONDS } from '#core/proof/drills';
  import type { DrillAct, DrillDeed, DrillRun, DrillScript } from '#core/proof/drills';
  import { deedText, drillText, noticedText, secondsText } from '#words';
  import { useSession } from '../../session/index';
  import Term from '../controls/Term.svelte';
  import DrillChart from './DrillChart.svelte';
  import { secondsOf } from './chart';
  import type { Mark, NamedRun } from './chart';
  // A continuous ping while lines fail: what to do when, the run as a chart, and the same in words and as a table.
  let { plan, onplan }: { plan: DrillScript; onplan: (plan: DrillScript) => void } = $props();
  const session = useSession();
  const stations = $derived(session.wiring.stations.filter((s) => !s.off));
  const lines = $derived([
    ...session.wiring.circuits.map((c) => ({ name: c.name, isCircuit: true })),
    ...[...session.site.ports.values()]
      .filter((p) => !session.wiring.circuits.some((c) => c.name === p.name))
      .map((p) => ({ name: p.name, isCircuit: false })),
    ...boxNames(session.site).map((name) => ({ name, isCircuit: false })),
  ]);
  const DEEDS: Readonly<Record<DrillDeed, string>> = {
    cut: 'cut',
    deaden: 'dead behind its gateway',
    restore: 'as it was',
    replug: 'out and in again',
    slow: 'slow (ms)',
    lossy: 'lossy (%)',
    renumber: 'another IPv6 prefix',
  };
  let what = $state<DrillDeed>('deaden');
  let on = $state('');
  let by = $state(300);
  let at = $state(5);
  const target = $derived(lines.some((l) => l.name === on) ? on : (lines[0]?.name ?? ''));
  const measured = $derived(what === 'slow' || what === 'lossy');
  const fitting = $derived(
    lines.filter((l) => l.isCircuit || what === 'cut' || what === 'replug' || what === 'restore'),
  );

  function put(second: number) {
    if (measured && !Number.isFinite(by)) {
      trouble = 'say how much: milliseconds for slow, percent for lossy';
      return;
    }
    const act: DrillAct = {
      at: Math.round(Math.max(0, Math.min(plan.seconds, second)) * 10) * 100,
      what,
      on: target,
      ...(measured ? { by } : {}),
    };
    onplan({ ...plan, acts: [...plan.acts, act].sort((a, b) => a.at - b.at) });
    // Who drew a run wants to see what the act does to it.
    if (runs.length) void run();
  }

  let runs = $state.raw<readonly NamedRun[]>([]);
  let kept = $state.raw<DrillRun | undefined>();
  let isRunningOver = $state(false);
  let busy = $state(false);
  let trouble = $state('');
  export async function run() {
    if (busy) return;
    busy = true;
    trouble = '';
    const script = {
      from: plan.from || stations[0]?.name || 'box',
      to: plan.to || undefined,
      seconds: plan.seconds,
      acts: plan.acts.map((a) => ({ ...a })),
    };
    try {
      const said = await session.runDrill('draft', script);
      if (!said.ok) {
        trouble = said.why;
        return;
      }
      const other = isRunningOver ? await session.runDrill('running', script) : undefined;
      if (other && !other.ok) trouble = `on what runs: ${other.why}`;
      const beside = other?.ok
        ? [{ name: 'running', run: other.run }]
        : kept
          ? [{ name: 'kept', run: kept }]
          : [];
      runs = [{ name: 'draft', run: said.run }, ...beside];
    } catch (error) {
      trouble = error instanceof Error ? error.message : String(error);
    } finally {
      busy = false;
    }
  }
  const first = $derived(runs[0]?.run);
  const marks = $derived.by((): Mark[] => {
    if (!first) return [];
    const done = first.acts.map((a): Mark => ({ at: a.at, text: deedText(a), who: 'done' }));
    const noticed = first.noticed.map((n): Mark => ({ at: n.at, text: noticedText(n), who: 'noticed' }));
    return [...done, ...noticed].sort((a, b) => a.at - b.at);
  });
  /** What is drilled as a promise: that the pings go on once what failed has failed for a while. */
  const promise = $derived.by(() => {
    const of = (what: DrillDeed) => [...new Set(plan.acts.filter((a) => a.what === what).map((a) => a.on))];
    const [cut, dead] = [of('cut'), of('deaden')];
    const who = plan.from === 'box' ? '' : plan.from;
    if (!who || !(cut.length + dead.length)) return '';
    const failed = [...(cut.length ? ['cut', ...cut] : []), ...(dead.length ? ['dead', ...dead] : [])];
    return `expect ${who} reaches internet while ${failed.join(' ')}`;
  });
  const says = $derived(runs.map((r) => `${r.name}: ${drillText(r.run)}`).join('. '));
  let tabled = $state(false);
</script>

<section class="panel p-3" aria-label="drill" data-testid="drill">
  <h2 class="mb-1 h2">
    <Term word="drill" text="Drill" />
    <span class="font-normal quiet">a continuous ping while lines fail</span>
  </h2>
  <div class="flex flex-wrap items-end gap-2">
    <label
      >from <input
        class="field mono w-32"
        list="drill-places"
        value={plan.from}
        onchange={(e) => onplan({ ...plan, from: e.currentTarget.value.trim() })}
        data-testid="drill-from"
      /><datalist id="drill-places"
        >{#each stations as s (s.name)}<option value={s.name}></option>{/each}<option value="box"
        ></option></datalist
      ></label
    >
    <label
      >to <select
        class="select w-36 select-xs"
        value={plan.to ?? ''}
        onchange={(e) => onplan({ ...plan, to: e.currentTarget.value })}
        data-testid="drill-to"
        ><option value="">the first that answers</option
        >{#each session.site.fars.filter((f) => !f.silent) as f (f.name)}<option>{f.name}</option
          >{/each}</select
      ></label
    >
    <label
      >for <input
        class="field mono w-16"
        type="number"
        min="1"
        max={MOST_SECONDS}
        value={plan.seconds}
        onchange={(e) => onplan({ ...plan, seconds: e.currentTarget.valueAsNumber })}
        data-testid="drill-seconds"
      /> s</label
    >
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={isRunningOver} /> what runs over it</label
    >
    <button class="btn btn-sm btn-primary" onclick={run} disabled={busy} data-testid="drill-run"
      >{busy ? 'Running …' : 'Run'}</button
    >
    {#if first}<button
        class="btn btn-sm"
        title="draws this run beside the next ones"
        onclick={() => (kept = first)}
        data-testid="drill-keep">Keep to compare</button
      >{/if}
    {#if promise}<button
        class="btn btn-sm"
        title={`writes “${promise}”, which is checked from then on`}
        onclick={() => session.apply(addStatement(session.site, 'expect', promise), promise)}
        data-testid="drill-promise">Keep as a promise</button
      >{/if}
  </div>
  <form
    class="mt-2 flex flex-wrap items-end gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      put(at);
    }}
  >
    <label
      >at <input
        class="field mono w-16"
        type="number"
        min="0"
        max={plan.seconds}
        step="0.1"
        bind:value={at}
        data-testid="act-at"
      /> s</label
    >
    <label
      >line <select
        class="select w-32 select-xs"
        value={target}
        onchange={(e) => (on = e.currentTarget.value)}
        data-testid="act-on"
        >{#each fitting as l (l.name)}<option>{l.name}</option>{/each}</select
      ></label
    >
    <label
      >is <select class="select w-48 select-xs" bind:value={what} data-testid="act-what"
        >{#each DRILL_DEEDS as d (d)}<option value={d}>{DEEDS[d]}</option>{/each}</select
      ></label
    >
    {#if measured}<label
        >{what === 'slow' ? 'by, ms' : 'loses, %'}
        <input
          class="field mono w-20"
          type="number"
          min="0"
          max={what === 'slow' ? 10000 : 100}
          bind:value={by}
          data-testid="act-by"
        /></label
      >{/if}
    <button class="btn btn-sm" data-testid="act-add">Add</button>
    <span class="quiet">or click into the chart at its second</span>
  </form>
  {#if plan.acts.length}
    <ol class="mt-2 flex flex-wrap gap-1" aria-label="what is done" data-testid="acts">
      {#each plan.acts as act, i (i)}
        <li class="flex items-center gap-1 rounded border border-base-300 px-1.5">
          <span class="mono">{secondsText(act.at)}</span>
          {deedText(act)}
          <button
            class="cursor-pointer px-1"
            aria-label={`take ${deedText(act)} away`}
            onclick={() => {
              onplan({ ...plan, acts: plan.acts.filter((_, n) => n !== i) });
              if (runs.length) void run();
            }}>✕</button
          >
        </li>
      {/each}
    </ol>
  {/if}
  {#if trouble}<p class="mt-2 font-semibold text-error" role="alert">{trouble}</p>{/if}
  {#if first}
    {#each runs as r (r.name)}<p class="mt-2" role="status" data-testid={`drill-sum-${r.name}`}>
        <b>{r.name}:</b>
        {drillText(r.run)}
      </p>{/each}
    <DrillChart {runs} {marks} {says} onpick={put} />
    <ol class="grid gap-x-4 min-[900px]:grid-cols-2" aria-label="what happened" data-testid="drill-marks">
      {#each marks as m, n (n)}
        <li>
          <span class={['mark', m.who]} aria-hidden="true">{n + 1}</span>
          <span class="mono">{secondsText(m.at)}</span>
          {m.text}
          <span class="quiet">{m.who === 'done' ? '(drill)' : '(the box noticed)'}</span>
        </li>
      {/each}
    </ol>
    <details class="mt-2" bind:open={tabled}>
      <summary class="cursor-pointer quiet">Second by second, as a table</summary>
      {#if tabled}
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <div class="max-h-64 overflow-auto" role="region" tabindex="0" aria-label="second by second">
          <table class="mono w-full text-[12px]" data-testid="drill-table">
            <thead
              ><tr class="text-start"
                ><th class="text-start">s</th>{#each runs as r (r.name)}<th class="text-start"
                    >{r.name}: lost of sent</th
                  ><th class="text-start">trip, ms</th><th class="text-start">seen as</th>{/each}</tr
              ></thead
            >
            <tbody>
              {#each secondsOf(first) as s (s.second)}
                <tr class="border-t border-base-300"
                  ><td>{s.second}</td>{#each runs as r (r.name)}{@const x = secondsOf(r.run)[s.second]}<td
                      class={x?.lost ? 'font-semibold text-error' : ''}>{x?.lost} of {x?.sent}</td
                    ><td>{x?.trip?.toFixed(1) ?? '–'}</td><td>{x?.seen}</td>{/each}</tr
                >
              {/each}
            </tbody>
          </table>
        </div>
      {/if}
    </details>
  {/if}
</section>

<style>
  .mark {
    display: inline-block;
    min-width: 18px;
    border: 1px solid var(--color-base-content);
    text-align: center;
    font: 600 11px/15px var(--font-mono);
  }
  .done {
    border-radius: 2px;
    background: var(--color-base-content);
    color: var(--color-base-100);
  }
  .noticed {
    border-radius: 8px;
  }
</style>
