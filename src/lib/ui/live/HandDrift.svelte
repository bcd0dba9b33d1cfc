<script lang="ts">
  import { changeClauses } from '#core/edits';
  import { parseIp, isIpv4 } from '#core/addr';
  import { restoredText } from '#words';
  import { useSession } from '../../session/index';
  import type { LiveDrift } from '../../session/index';
  // What somebody did on the live box by hand: told, and taken into the draft where a statement can say it.
  const session = useSession();
  const live = $derived(session.live);
  const drift = $derived(live?.byHand ? live.drift : []);
  const restored = $derived(live?.sight?.restored.slice(-3).reverse() ?? []);
  const statementOf = (name: string | undefined) =>
    session.site.interfaces.find((i) => i.name === name)?.statement;
  type Drift = LiveDrift[number];
  /** An address that somebody added to an interface of ours can be written there. */
  const canAdopt = (d: Drift) =>
    d.what === 'address' && d.how === 'added' && d.value !== undefined && !!statementOf(d.interface);
  function adopt(d: Drift) {
    const statement = statementOf(d.interface);
    if (!statement || !('value' in d) || d.value === undefined) return;
    const address = parseIp(d.value.split('/')[0]!);
    if (address === undefined) return;
    const text = `${isIpv4(address) ? 'also' : 'address6'} ${d.value}`;
    session.apply(
      changeClauses(session.site, statement, [{ do: 'add', text }]),
      `adopt ${d.value} on ${d.interface}`,
    );
  }
</script>

{#if drift.length}
  <section class="panel mb-4 p-3" aria-label="changed by hand" data-testid="hand-drift">
    <h2 class="mb-2 h2">Changed on the box by hand</h2>
    <ul class="mb-1">
      {#each drift as d, n (n)}
        <li class="flex items-baseline gap-2">
          <span class="text-[12.5px] break-words">▲ {d.text}</span>
          {#if canAdopt(d)}
            <button
              class="btn ms-auto btn-xs"
              data-testid="adopt-{n}"
              disabled={!session.leading}
              onclick={() => adopt(d)}>Adopt into the draft</button
            >
          {/if}
        </li>
      {/each}
    </ul>
    <p class="quiet">
      What is not ours the box leaves alone; what is adopted is told to it with the next trial.
    </p>
    <button
      class="btn mt-2 btn-sm"
      data-testid="tell-again"
      disabled={!session.leading || !!session.box.trial || live?.ordering !== ''}
      onclick={() => void live?.order({ do: 'again' })}>Tell it again</button
    >
    <span class="quiet ms-2">What it runs is told once more. Nothing of it is new, so it is no trial.</span>
  </section>
{/if}
{#if restored.length}
  <section class="panel mb-4 p-3" aria-label="put back" data-testid="restored">
    <h2 class="mb-2 h2">Put back by the box itself</h2>
    <ul>
      {#each restored as r (r.at)}<li class="text-[12.5px]">
          {restoredText(r, live!.sight!.box.uptime)}
        </li>{/each}
    </ul>
  </section>
{/if}
