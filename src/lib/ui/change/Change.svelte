<script lang="ts">
  import { TRIAL_SECONDS, secondsFor } from '#core/change';
  import { CHANGE_HEADS, REFUSALS, changeTexts, findingText } from '#words';
  import Sure from '../controls/Sure.svelte';
  import Term from '../controls/Term.svelte';
  import { useSession } from '../../session/index';
  import type { PlanStepView } from '../../session/index';
  import Crossing from './Crossing.svelte';
  import Drift from './Drift.svelte';
  import Trial from '../trial/Trial.svelte';
  import WeakPoints from '../trial/WeakPoints.svelte';
  import HandDrift from '../live/HandDrift.svelte';
  import Hands from '../live/Hands.svelte';
  import LiveTrial from '../live/LiveTrial.svelte';
  import Refused from '../live/Refused.svelte';
  const session = useSession();
  let seconds = $state<number>(TRIAL_SECONDS.usual);
  /** Whether somebody chose the time: then no plan does. */
  let timed = $state(false);
  let note = $state('');
  let rebooting = $state(false);
  /** Why what somebody else told the box cannot be taken. */
  let elsewhere = $state('');
  let refused = $state('');
  let overruled = $state<readonly string[]>([]);
  const blocking = $derived(session.findings.filter((f) => f.severity === 'error'));
  const open = $derived(blocking.filter((f) => !overruled.includes(f.id)));
  const broken = $derived(session.held.length > 0);
  /** The whole draft, or what a step of the crossing comes to. */
  function tryIt(step?: Pick<PlanStepView, 'text' | 'box' | 'last'>, more: readonly string[] = []) {
    const codes = blocking.filter((f) => overruled.includes(f.id)).map((f) => f.code);
    const no =
      step && !step.last
        ? session.tryStep(step.box, seconds, note.trim() || step.text.slice(0, 80))
        : session.tryDraft(seconds, note.trim(), open.length, [...codes, ...more]);
    refused = no ? REFUSALS[no] : '';
  }
  /** What was chosen for one trial is not for the next; a live box may refuse it first. */
  $effect(() => {
    if (!session.box.trial) return;
    timed = false;
    note = '';
    overruled = [];
  });
  const seat = $derived(session.derived?.seat);
  const isLive = $derived(session.isLive);
  /** By the time of an entry of the history: that of the one it is held against. */
  let against = $state.raw<Readonly<Record<number, number | undefined>>>({});
  const indexOf = (at: number | undefined) => {
    const found = at === undefined ? -1 : session.box.history.findIndex((h) => h.at === at);
    return found < 0 ? undefined : found;
  };
  const lines = $derived(
    (session.onTrial.length ? session.onTrial : session.changes).flatMap((c) => changeTexts(c)),
  );
  const gone = $derived(lines.filter((l) => session.nav.ticked.includes(l)).length);
  const when = (at: number) => new Date(at).toLocaleString();
</script>

<div class="mx-auto grid max-w-[1200px] gap-4 min-[900px]:grid-cols-2 p-4" data-testid="change">
  <section aria-label="difference">
    <Drift />
    <HandDrift />
    <h2 class="mb-2 h2"><Term word="draft" text="Draft" /> against running</h2>
    {#if gone}<p class="quiet" data-testid="ticked">{gone} of {lines.length} gone through</p>{/if}
    {#if !session.changes.length}
      <p class="panel p-3 quiet">No difference: the box runs what the draft says.</p>
    {/if}
    {#if session.changes.length}<div class="mb-2"><WeakPoints /></div>{/if}
    {#if session.onTrial.length}<h2 class="mt-4 h2">
        On trial: what the box runs, against what it ran before
      </h2>{/if}
    {#each CHANGE_HEADS.keys() as rank (rank)}
      {@const list = (session.onTrial.length ? session.onTrial : session.changes).filter(
        (c) => c.rank === rank,
      )}
      {#if list.length}
        <h3 class="mt-3 mb-1 font-semibold">{CHANGE_HEADS[rank]}</h3>
        <ul class="panel divide-y divide-base-300">
          {#each list as c, n (n)}
            <li class="px-3 py-1.5">
              {#each changeTexts(c) as line, n (n)}
                <div class="flex items-start gap-2">
                  <input
                    type="checkbox"
                    class="checkbox mt-0.5 checkbox-xs"
                    aria-label="gone through: {line}"
                    checked={session.nav.ticked.includes(line)}
                    onchange={() => session.nav.tickOff(line)}
                  />
                  <button
                    class={[
                      'mono block text-start text-[12.5px] hover:underline',
                      session.nav.ticked.includes(line) && 'quiet',
                    ]}
                    onclick={() => {
                      session.nav.view = 'board';
                      session.nav.select(c.subject);
                    }}>{line}</button
                  >
                </div>
              {/each}
            </li>
          {/each}
        </ul>
      {/if}
    {/each}
  </section>
  <div class="space-y-4">
    <Crossing
      {tryIt}
      stopped={open.length > 0 || broken || !!session.drift}
      planned={(toDo) => {
        if (!timed) seconds = secondsFor(toDo);
      }}
    />
    {#if seat && !session.changes.length && !session.box.trial}
      <p class="panel p-3" data-testid="seat-line">
        <b>{seat.supposed ? '~ ' : ''}{seat.name}</b>
        {seat.running ? 'comes in by' : 'has no way into the box'}
        <span class="mono">{seat.running ?? ''}</span>
        {seat.supposed ? '(supposed: the wiring names no seat)' : ''}
      </p>
    {/if}
    <section class="panel p-3" aria-label="trial">
      <h2 class="mb-2 h2">Apply on <Term word="trial" /></h2>
      {#if session.box.trial}
        <Trial />
      {:else}
        <LiveTrial />
        <p class="mb-2">The box takes the draft, and goes back by itself unless you stay with it in time.</p>
        {#if !session.box.passwordSet}
          <p class="ground-error mb-2 rounded p-2">
            ■ The box still has the password it came with.
            <button
              class="link text-primary"
              data-testid="set-password"
              onclick={() => session.tell({ do: 'set-password' })}>Set a new one</button
            >
          </p>
        {/if}
        {#if blocking.length}
          <p class="mb-1 font-semibold">These stand in the way:</p>
          <ul class="mb-2 space-y-1">
            {#each blocking as f, n (n)}
              <li class="ground-error rounded p-2">
                ■ {findingText(f)}
                <Sure id={f.id} code={f.code} text="overrule" testid="overrule" bind:confirmed={overruled} />
              </li>
            {/each}
          </ul>
        {/if}
        <div class="flex items-end gap-2">
          <label class="w-28"
            >seconds <input
              type="number"
              class="field"
              min={TRIAL_SECONDS.least}
              max={TRIAL_SECONDS.most}
              bind:value={seconds}
              oninput={() => (timed = true)}
              data-testid="trial-seconds"
            /></label
          >
          <label class="flex-1"
            >note <input class="field" bind:value={note} placeholder="what this is for" /></label
          >
        </div>
        <button
          class="btn mt-3 btn-primary btn-sm"
          data-testid="try"
          disabled={!session.changes.length ||
            open.length > 0 ||
            !session.isLookedAt ||
            broken ||
            !!session.drift ||
            !session.leading ||
            (isLive && !!session.live?.ordering)}
          onclick={() => tryIt()}>Try it</button
        >
        {#if session.drift}<p class="mt-1 text-error">
            The box was changed elsewhere: adopt that, or let the draft stand.
          </p>{/if}
        {#if !session.isLookedAt}<p class="mt-1 quiet" data-testid="not-looked-at">
            This text is being looked at; it can be tried once that is done.
          </p>{/if}
        {#if broken}<p class="mt-1 text-error">A statement cannot be read yet; finish it first.</p>{/if}
        {#if refused}<p class="mt-1 text-error" role="alert">{refused}</p>{/if}
        <Refused again={(codes) => tryIt(undefined, codes)} />
        {#if session.box.last}<p class="mt-2 quiet" data-testid="went-back">
            Went back by itself {when(session.box.last.at)}.
          </p>{/if}
      {/if}
    </section>
    <Hands />
    <section class="panel p-3" aria-label="the box">
      <h2 class="mb-2 h2">The box</h2>
      <p class="mb-2">
        {session.saved
          ? 'Running is saved: a reboot starts the same.'
          : 'Running is not saved: a reboot would lose it.'}
      </p>
      <button
        class="btn btn-sm"
        data-testid="save"
        disabled={session.saved || !!session.box.trial || !session.leading}
        onclick={() => {
          rebooting = false;
          session.tell({ do: 'save' });
        }}>Save to start-up</button
      >
      {#if isLive}
        <button class="btn btn-sm" data-testid="leave-live" onclick={() => session.leaveLive()}
          >Let go of the live box</button
        >
      {/if}
      {#if rebooting}
        <p class="ground-error mt-2 rounded p-2" role="alert">
          ■ {session.saved
            ? 'While it reboots nothing passes it.'
            : 'What the box runs is not saved. A reboot starts what was saved before.'}
          <button
            class="btn ms-2 btn-xs"
            data-testid="reboot-anyway"
            onclick={() => {
              rebooting = false;
              session.tell({ do: 'reboot' });
            }}>Reboot all the same</button
          >
          <button class="btn btn-ghost btn-xs" onclick={() => (rebooting = false)}>Leave it</button>
        </p>
      {:else}
        <button
          class="btn btn-sm"
          data-testid="reboot"
          disabled={!session.leading}
          onclick={() => {
            // A live box that is rebooted carries nothing for a while: that is said before, too.
            if (!isLive && session.saved && !session.box.trial) session.tell({ do: 'reboot' });
            else rebooting = true;
          }}>Reboot {isLive ? 'the live box' : 'the bench box'}</button
        >
      {/if}
      {#if !isLive}<label class="mt-3 block"
          >Somebody else changed it? Read what it runs from a file
          <input
            type="file"
            class="file-input mt-1 block file-input-xs"
            accept=".gate,.txt"
            data-testid="changed-elsewhere"
            disabled={!!session.box.trial || !session.leading}
            onchange={async (e) => {
              const input = e.currentTarget;
              const [file] = input.files ?? [];
              elsewhere = file ? (session.changedElsewhere(file.name, await file.text()) ?? '') : '';
              input.value = '';
            }}
          /></label
        >{/if}
      {#if elsewhere}<p class="mt-1 text-error" role="alert" data-testid="elsewhere-fault">
          {elsewhere}
        </p>{/if}
    </section>
    <section class="panel p-3" aria-label="history">
      <h2 class="mb-2 h2">History</h2>
      {#if !session.box.history.length}<p class="quiet">Nothing has stayed yet.</p>{/if}
      <ul class="space-y-1">
        {#each session.box.history as h, i (i)}
          <li class="flex items-baseline gap-2">
            <details class="min-w-0 flex-1" data-testid="history-{i}">
              <summary>{when(h.at)} <span class="quiet">{h.note}</span></summary>
              {#if session.box.history.length > 1}
                <label class="quiet"
                  >against
                  <select
                    class="select w-auto select-xs"
                    data-testid="against-{i}"
                    onchange={(e) =>
                      (against = {
                        ...against,
                        [h.at]: e.currentTarget.value === '' ? undefined : Number(e.currentTarget.value),
                      })}
                  >
                    <option value="">what ran before it</option>
                    {#each session.box.history as other, j (j)}
                      {#if j !== i}<option value={other.at}>{when(other.at)} {other.note}</option>{/if}
                    {/each}
                  </select></label
                >
              {/if}
              {#each session.historyChanges(i, indexOf(against[h.at])).flatMap(changeTexts) as line, n (n)}
                <p class="mono text-[12.5px] break-words">{line}</p>
              {:else}
                <p class="quiet">Nothing that means anything to the box.</p>
              {/each}
            </details>
            <button
              class="btn ms-auto btn-xs"
              onclick={() => {
                for (const f of h.files) session.setText(f.name, f.text, `restore ${when(h.at)}`);
                session.restTyping();
              }}>as a draft</button
            >
          </li>
        {/each}
      </ul>
    </section>
  </div>
</div>
