<script lang="ts">
  import { SPENT_TEXT, STAGE_NAMES, stageText } from '#words';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import Term from '../controls/Term.svelte';
  import Rung from '../primitives/Rung.svelte';
  import LiveRungs from '../live/LiveRungs.svelte';
  import {
    deskGroups,
    desksSentence,
    firstFail,
    ladderId,
    ladderName,
    ladderSentence,
    sameLadder,
    standingOf,
  } from '../ladder/ladders';

  const session = useSession();
  const draft = $derived(session.derived?.draft);
  const uplinks = gradually(() => draft?.uplinks ?? [], 4);
  const running = $derived(session.derived?.running);
  const groups = $derived(draft ? deskGroups(draft) : []);
  const runningGroups = $derived(running ? deskGroups(running) : []);
  const many = $derived((draft?.uplinks.length ?? 0) > 3);
  /** What the bench says of a text is supposed only where the box is known to differ from it. */
  const byHand = $derived(session.live?.byHand ?? 0);
  const evidence = (supposed: boolean) => (supposed || byHand ? 'supposed' : 'bench');
  /** Names of rungs that stand beside nine others. */
  const SHORT: Readonly<Partial<Record<string, string>>> = { 'name-ping': 'ping', egress: 'seen' };
  const liveOf = (u: { interface: string; family: string }) =>
    session.live?.uplinks.find((l) => l.interface === u.interface && l.family === u.family);
  /** Whether all of it is shown where the window is low. */
  let unfolded = $state(false);
  /** More networks than this are told by their number, and only those that stop by name. */
  const MOST = 12;
  const shown = $derived(groups.length > MOST ? groups.filter((g) => g.fail).slice(0, 8) : groups);
  const failed = $derived(draft?.promises.filter((p) => p.result === 'fail') ?? []);
</script>

<footer class={['strip panel', unfolded && 'unfolded']} aria-label="proof strip" data-testid="strip">
  <span class="legend"><Term word="rung" text="?" /></span>
  <button
    class="unfold btn h-5 min-h-0 px-1 btn-ghost btn-xs"
    aria-expanded={unfolded}
    aria-label="all of the proof strip"
    onclick={() => (unfolded = !unfolded)}>{unfolded ? '▾' : '▴'}</button
  >
  {#if !draft}<p class="quiet">The bench is booting …</p>
  {:else}
    {#if draft.spent}<p class="font-semibold text-error" role="status">✕ {SPENT_TEXT}</p>{/if}
    <div class={many ? 'many grid grid-cols-2 gap-x-6' : ''}>
      {#each uplinks.shown as u (u.interface + u.family)}
        {@const was = running?.uplinks.find((r) => r.interface === u.interface && r.family === u.family)}
        {@const differs = was && !sameLadder(u.stages, was.stages)}
        {@const fail = firstFail(u.stages)}
        <div class="row" data-testid={ladderId(u)}>
          <button
            class="text-start font-semibold hover:underline"
            onclick={() => (session.nav.view = 'proof')}>{ladderName(u)}</button
          >
          <span class="rungs">
            {#each u.stages as s (s.stage)}
              <span class="inline-flex flex-col gap-0.5">
                <Rung
                  result={s.result}
                  evidence={evidence(s.supposed || u.supposed)}
                  label={many && !fail ? '' : (SHORT[s.stage] ?? STAGE_NAMES[s.stage])}
                  title={`${STAGE_NAMES[s.stage]}: ${stageText(s)}`}
                />
                {#if differs}
                  {@const r = was.stages.find((x) => x.stage === s.stage)}
                  {#if r}<Rung
                      result={r.result}
                      evidence="bench"
                      half
                      title={`running: ${stageText(r)}`}
                    />{/if}
                {/if}
              </span>
            {/each}
            {#if liveOf(u)}<span class="basis-full"><LiveRungs uplink={liveOf(u)!} short /></span>{/if}
          </span>
          {#if !many || u.active || fail}
            <span class="seen">{standingOf(u)}</span>
            <span class={['sentence', fail && 'font-semibold']} title={ladderSentence(u.stages)}>
              {ladderSentence(u.stages)}{#if differs}<span class="quiet">
                  &nbsp;· running: {firstFail(was.stages) ? ladderSentence(was.stages) : 'passes'}</span
                >{/if}
            </span>
          {/if}
        </div>
      {/each}
      {#if !draft.uplinks.length}<p class="quiet">
          No way out yet: no interface is in an upstream zone.
        </p>{/if}
    </div>
    <div class="row desks" data-testid="desks">
      <button class="text-start font-semibold hover:underline" onclick={() => (session.nav.view = 'proof')}
        >desks</button
      >
      <span class="rungs">
        {#if groups.length > MOST}
          <Rung
            result="pass"
            evidence={evidence(groups.every((g) => g.supposed))}
            label={`${groups.filter((g) => g.open === g.total).length} networks`}
          />
        {/if}
        {#each shown as g (g.interface)}
          <Rung
            result={g.fail ? 'fail' : g.closed ? 'skipped' : 'pass'}
            evidence={evidence(g.supposed)}
            label={g.interface + (g.supposed ? ' ~' : '')}
            title={g.fail
              ? stageText(g.fail)
              : g.closed
                ? `${g.interface}: may not open pages`
                : `${g.interface}: seen as ${g.seen.join(' and ')}`}
          />
        {/each}
      </span>
      <span class="seen">
        {#each [...new Set(groups.flatMap((g) => g.seen))] as seen (seen)}
          {@const mine = groups.filter((g) => g.seen.includes(seen)).map((g) => g.interface)}
          <span class="mono block" title={mine.join(', ')}
            >{mine.length === 1 ? mine[0] : `${mine.length} networks`} as {seen}</span
          >
        {/each}
      </span>
      <span class="sentence" title={desksSentence(groups)}>
        {#if byHand}<span class="block font-semibold text-error" data-testid="strip-by-hand"
            >▲ {byHand} changed by hand: this is of the text, not of the box</span
          >{/if}
        <b>{desksSentence(groups)}</b
        >{#if running && desksSentence(runningGroups) !== desksSentence(groups)}<span class="quiet">
            &nbsp;· running: {desksSentence(runningGroups)}</span
          >{/if}{#if failed.length}<span class="block text-error"
            >✕ {failed.length} promise{failed.length > 1 ? 's' : ''} not kept: {failed[0]!.text.replace(
              /^expect /,
              '',
            )}</span
          >{/if}
      </span>
    </div>
  {/if}
</footer>

<style>
  .strip {
    position: relative;
    max-height: 132px;
    overflow: auto;
    border-width: 2px 0 0;
    border-radius: 0;
    padding: 6px 12px;
    font-size: 12px;
    line-height: 16px;
  }
  .row {
    display: grid;
    grid-template-columns: 64px minmax(0, 598px) 198px minmax(180px, 1fr);
    gap: 10px;
    align-items: center;
    padding: 3px 0;
  }
  .many .row {
    grid-template-columns: 64px 190px 120px minmax(0, 1fr);
  }
  .rungs {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 2px 8px;
  }
  .desks {
    grid-template-columns: 64px minmax(0, 570px) 226px minmax(180px, 1fr);
    align-items: start;
  }
  .seen {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sentence {
    overflow: hidden;
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
  }
  .desks .sentence {
    -webkit-line-clamp: 3;
    line-clamp: 3;
  }
  .legend {
    position: absolute;
    right: 10px;
    top: 4px;
    z-index: 1;
    line-height: 16px;
  }
  /* The strip is at the foot: its words open upwards, out of it. */
  .legend :global(.tip) {
    position: fixed;
    top: auto;
    bottom: 140px;
    inset-inline-start: auto;
    inset-inline-end: 0;
  }
  .unfold {
    display: none;
  }
  /* A low window, or a page at twice its size: the desks alone say how it stands, in one line. */
  @media (max-height: 520px), (max-width: 899px) {
    .unfold {
      display: block;
      position: absolute;
      right: 28px;
      top: 2px;
      z-index: 1;
    }
    .row {
      grid-template-columns: 64px minmax(0, 1fr);
    }
    .strip:not(.unfolded) {
      max-height: 30px;
      overflow: hidden;
    }
    .strip:not(.unfolded) .row:not(.desks),
    .strip:not(.unfolded) .desks .rungs,
    .strip:not(.unfolded) .desks .seen {
      display: none;
    }
    .strip:not(.unfolded) .desks .sentence {
      -webkit-line-clamp: 1;
      line-clamp: 1;
      padding-inline-end: 60px;
    }
  }
</style>
