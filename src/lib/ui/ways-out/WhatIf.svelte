<script lang="ts">
  import { faultKey } from '#core/proof/drills';
  import type { Fault } from '#core/proof/drills';
  import { deadText, faultText, outcomeText } from '#words';
  import { useSession } from '../../session/index';
  import { gradually } from '../controls/gradually.svelte';
  import WeakPoints from '../trial/WeakPoints.svelte';
  import { columnsOf, outcomesOn } from './plan';
  // Every single fault against every desk and door, filled in idle time; every two on request.
  let { ondrill }: { ondrill: (fault: Fault) => void } = $props();
  const session = useSession();
  let isPairs = $state(false);
  const faults = $derived(session.faults);
  const board = $derived(faults.board);
  const columns = $derived(board ? columnsOf(board) : []);
  const drawn = gradually(() => board?.rows ?? []);
  const isFresh = $derived(faults.isOf(session.effectiveFiles(), isPairs));
  const MARKS = { never: '–', on: '', dead: '✕' };
</script>

<section class="when-near panel p-3" style:--high="400px" aria-label="what if" data-testid="what-if">
  <div class="flex flex-wrap items-baseline gap-3">
    <h2 class="h2">What if</h2>
    <span class="quiet">every line cut and every provider dead behind its gateway, one at a time</span>
    <label class="ms-auto flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={isPairs} data-testid="pairs" /> every two
      at once</label
    >
    <span class="w-32 text-end quiet" role="status" data-testid="what-if-progress"
      >{faults.progress
        ? `${faults.progress.done} of ${faults.progress.of} tried`
        : board && !isFresh
          ? 'of an earlier text'
          : ''}</span
    >
  </div>
  <div class="mt-2"><WeakPoints {isPairs} /></div>
  {#if !board}<p class="mt-2 quiet">It is filled once everything rests.</p>
  {:else if !board.rows.length}<p class="mt-2 quiet">Nothing is plugged in, so nothing can fail.</p>
  {:else}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="mt-2 overflow-x-auto" role="region" tabindex="0" aria-label="the what-if board">
      <table class="board" data-testid="what-if-board">
        <thead>
          <tr>
            <th scope="col" class="text-start">fault</th>
            {#each columns as c, n (n)}<th scope="col" class="text-start" title={c.about}>{c.name}</th>{/each}
          </tr>
        </thead>
        <tbody>
          {#each drawn.shown as row (faultKey(row.fault))}
            {@const before = outcomesOn(faults.running, row.fault)}
            <tr>
              <th scope="row" class="text-start">
                <button
                  class="text-start hover:underline"
                  title="drill this"
                  data-testid={`fault-${faultKey(row.fault).replaceAll(' ', '-')}`}
                  onclick={() => ondrill(row.fault)}>{faultText(row.fault)}</button
                >
              </th>
              {#each columns as c, n (n)}
                {@const o = row.outcomes[c.bearers[0]!]!}
                {@const was = before(board.bearers[c.bearers[0]!])}
                <td
                  class={[o.is, o.is === 'dead' && was?.is === 'on' && 'weaker']}
                  title={`${c.about}: ${outcomeText(o)}`}
                >
                  {MARKS[o.is]}
                  {#if o.is === 'on'}<span class={o.after ? 'font-semibold' : ''}
                      >{`${o.by ?? ''}${o.after ? ` after ${o.after} s` : ''}`}</span
                    ><br /><span class="mono quiet">{o.seen ?? ''}</span>
                  {:else if o.is === 'dead'}dead{#if was?.is === 'on'}, new{/if}<br /><span class="why"
                      >{deadText(o.why)}</span
                    >{:else}<span class="sr-only">{outcomeText(o)}</span>{/if}
                  {#if o.is !== 'dead' && was?.is === 'dead'}<br /><span class="quiet">was dead</span>{/if}
                </td>
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</section>

<style>
  .board {
    border-collapse: collapse;
    font-size: 12px;
    line-height: 15px;
  }
  .board th,
  .board td {
    border: 1px solid var(--color-base-300);
    padding: 3px 6px;
    vertical-align: top;
    white-space: nowrap;
  }
  .board thead th {
    background: var(--color-base-200);
  }
  .dead {
    background: var(--error-ground);
    font-weight: 600;
  }
  .why {
    display: inline-block;
    max-width: 130px;
    white-space: normal;
    font-weight: 400;
  }
  .weaker {
    outline: 2px solid var(--color-error);
    outline-offset: -2px;
  }
</style>
