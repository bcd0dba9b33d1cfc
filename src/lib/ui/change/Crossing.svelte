<script lang="ts">
  import { FATE_WORDS } from '#words';
  import Term from '../controls/Term.svelte';
  import { useSession } from '../../session/index';
  import type { PlanStepView, PlanView } from '../../session/index';
  // The way from what runs to the draft, with the seat's line beside each step.
  let {
    tryIt,
    stopped,
    planned,
  }: {
    tryIt: (step: Pick<PlanStepView, 'text' | 'box' | 'last'>) => void;
    stopped: boolean;
    /** Told of every new plan: how often somebody has to do something at the desk. */
    planned: (toDo: number) => void;
  } = $props();
  const session = useSession();
  const WAIT = 400;
  let plan = $state.raw<PlanView>();
  let looking = $state(false);
  /** A plan that has just come is not to be hit by a click that was meant for what stood there before. */
  let settling = $state(false);
  const SETTLE = 600;
  /** Configurations that were looked at. */
  let looked = $state(0);
  let asked = 0;
  $effect(() => {
    const any = session.changes.length > 0;
    const mine = ++asked;
    if (!any) {
      plan = undefined;
      looking = false;
      return;
    }
    looking = true;
    const look = async () => {
      looked = 0;
      const found = await session.plan((view, count) => {
        if (mine !== asked) return;
        looked = count;
        if (view) plan = view;
      });
      if (mine !== asked) return;
      plan = found;
      planned(found?.steps.filter((s) => s.todo !== undefined).length ?? 0);
      looking = false;
      settling = true;
      settled = setTimeout(() => (settling = false), SETTLE);
    };
    const timer = setTimeout(
      () =>
        void look().catch((why: unknown) => {
          if (mine === asked) looking = false;
          session.cannot(why);
        }),
      WAIT,
    );
    let settled: ReturnType<typeof setTimeout> | undefined;
    return () => {
      clearTimeout(timer);
      clearTimeout(settled);
    };
  });
  const marks = { kept: '●', moved: '◆', cut: '✕' } as const;
  const copy = () =>
    navigator.clipboard?.writeText(
      (plan?.steps ?? [])
        .map((s, i) => `${i + 1}. ${s.text}\n   ${FATE_WORDS[s.fate]}${s.todo ? `\n   ${s.todo}` : ''}`)
        .join('\n'),
    );
</script>

{#snippet trying(step: Pick<PlanStepView, 'text' | 'box' | 'last'>, id: string)}
  {#if session.onlyBoxFile !== undefined && !session.box.trial}
    <button
      class="btn btn-xs"
      data-testid={id}
      disabled={!session.leading || looking || settling || stopped}
      onclick={() => tryIt(step)}>Try up to here</button
    >
  {/if}
{/snippet}

{#if plan || looking}
  <section class="panel p-3" aria-label="crossing" data-testid="crossing" aria-busy={looking || settling}>
    <div class="mb-2 flex items-baseline gap-2">
      <h2 class="h2"><Term word="crossing plan" text="Crossing" /></h2>
      {#if looking}<span class="quiet"
          >looking for a {plan ? 'better ' : ''}way{looked ? ` (${looked} looked at)` : ''} …</span
        >
        {#if plan}
          <button class="btn btn-ghost btn-xs" data-testid="enough" onclick={() => session.stopPlanning()}
            >this one will do</button
          >
        {/if}{/if}
      {#if plan?.steps.length}
        <button class="btn ms-auto btn-ghost btn-xs" onclick={copy}>copy</button>
        <button class="btn btn-ghost btn-xs" onclick={() => window.print()}>print</button>
      {/if}
    </div>
    {#if plan}
      {#if plan.standby}
        <div class="mb-2" data-testid="standby">
          <p class="font-semibold">{plan.standby.text}</p>
          {#if plan.standby.apart}
            <p class="ground-warning my-1 rounded p-2" data-testid="standby-apart">▲ {plan.standby.apart}</p>
          {/if}
          {#if plan.standby.changes.length}
            <details>
              <summary>what changes on {plan.standby.box}</summary>
              <ul class="mono ms-4 list-disc text-[12.5px]">
                {#each plan.standby.changes as line, n (n)}<li>{line}</li>{/each}
              </ul>
            </details>
          {/if}
        </div>
      {/if}
      <p class="mb-2" data-testid="crossing-seat">
        {#if !plan.seat}
          Nobody is known to sit anywhere: write <span class="mono">seat</span> in a station of the wiring.
        {:else if plan.seat.before}
          <b>{plan.seat.supposed ? '~ ' : ''}{plan.seat.name}</b> comes in by
          <span class="mono">{plan.seat.before}</span>{plan.seat.supposed ? ' (supposed)' : ''}.
        {:else}
          <b>{plan.seat.name}</b> has no way into the box as it runs, so none can be lost.
        {/if}
      </p>
      {#if plan.lockout}
        <p class="ground-error mb-2 rounded p-2" role="alert" data-testid="lockout">
          ■ In the end nothing at {plan.seat?.name} lets anybody in.
        </p>
      {/if}
      <ol class="path">
        {#each plan.steps as step, i (i)}
          <li class="fate-{step.fate}" data-testid="step-{i + 1}">
            <span class="mark" aria-hidden="true">{marks[step.fate]}</span>
            <div class="min-w-0 flex-1">
              <p class="mono text-[12.5px] break-words">{step.text}</p>
              {#if plan.seat?.before}
                <p class="quiet">
                  {plan.seat.name}
                  <b>{FATE_WORDS[step.fate]}</b>{step.fate !== 'cut' && step.contact
                    ? `: ${step.contact}`
                    : ''}
                </p>
              {/if}
              {#if step.todo}<p class="todo">{step.todo}</p>{/if}
            </div>
            {#if step.move && i === 0}
              {@const move = step.move}
              <button
                class="btn btn-xs"
                data-testid="at-desk"
                disabled={settling}
                onclick={() => session.atDesk(move)}>Done there</button
              >
            {/if}
            {#if step.what !== 'desk'}{@render trying(step, `try-step-${i + 1}`)}{/if}
          </li>
        {/each}
      </ol>
      {#each plan.slow as slow (slow.interface)}
        <details class="mt-2" data-testid="slow-{slow.interface}">
          <summary><b>{slow.interface}</b> is in use: cross slowly, so that nobody there notices</summary>
          <ol class="mt-1 space-y-1">
            {#each slow.steps as step, i (i)}
              <li class="flex items-start gap-2">
                <span class="mono flex-1 text-[12.5px]">{i + 1}. {step.text}</span>
                {@render trying(step, `slow-try-${slow.interface}-${i + 1}`)}
              </li>
            {/each}
          </ol>
          {#each slow.rest as line, n (n)}<p class="todo">{line}</p>{/each}
        </details>
      {/each}
    {/if}
  </section>
{/if}

<style>
  .path li {
    display: flex;
    gap: 10px;
    position: relative;
    padding-bottom: 10px;
  }
  .path li:not(:last-child)::before {
    content: '';
    position: absolute;
    inset-inline-start: 6px;
    top: 18px;
    bottom: -2px;
    border-inline-start: 2px solid var(--color-base-content);
  }
  .path li.fate-cut:not(:last-child)::before,
  .path li:has(+ .fate-cut)::before {
    border-inline-start-style: dotted;
  }
  .mark {
    width: 14px;
    flex: none;
    text-align: center;
    line-height: 18px;
  }
  .fate-cut .mark,
  .fate-cut b {
    color: var(--color-error);
  }
  .todo {
    margin-top: 2px;
    padding: 4px 8px;
    border-radius: 4px;
    background: var(--color-base-200);
  }
</style>
