<script lang="ts">
  import { onMount } from 'svelte';
  import { useSession } from '../../session/index';
  import { opensPage } from '../ladder/ladders';
  import Apply from './Apply.svelte';
  import Inside from './Inside.svelte';
  import Meet from './Meet.svelte';
  import Ports from './Ports.svelte';
  import Prove from './Prove.svelte';
  import Sheet from './Sheet.svelte';
  // From the carton to the internet, a step at a time; each writes statements that are shown first.
  const session = useSession();
  const steps = [
    'Meet the box',
    'Which port is which',
    'The provider’s sheet',
    'First inside network',
    'Prove',
    'Apply on trial',
  ];
  const site = $derived(session.site);
  const plugged = $derived(
    site.circuits.some((c) => c.name === 'line') && site.stations.some((s) => s.name === 'laptop'),
  );
  const errors = $derived(session.findings.filter((f) => f.severity === 'error'));
  const done = $derived([
    session.box.passwordSet,
    plugged,
    site.interfaces.some((i) => i.uplink),
    site.interfaces.some((i) => !i.uplink && i.addresses.length > 0),
    errors.length === 0 && !!session.derived && session.derived.draft.desks.some(opensPage),
    session.saved && session.changes.length === 0 && session.box.history.length > 0,
  ]);
  let step = $state(0);
  $effect(() => {
    // On opening, begin where the work stands.
    if (session.ready && step === 0 && session.box.passwordSet)
      step = Math.max(0, [...done, false].indexOf(false));
  });
  let line = $state('p1');
  let desk = $state('p2');
  /** Findings that are known, and gone on with. */
  let overruled = $state<readonly string[]>([]);
  let heading = $state<HTMLElement>();
  // The keyboard and the reading go on where the work does.
  const lead = () => requestAnimationFrame(() => heading?.focus());
  onMount(lead);
  function go(to: number) {
    step = to;
    lead();
  }
  let section = $state<HTMLElement>();
  /** Ctrl and Enter press the one button that leads on, wherever the caret is. */
  function onkeydown(event: KeyboardEvent) {
    if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return;
    event.preventDefault();
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
    section?.querySelector<HTMLButtonElement>('button.btn-primary:not(:disabled)')?.click();
    lead();
  }
</script>

<div
  class="mx-auto grid max-w-[1180px] gap-6 p-6 min-[900px]:grid-cols-[200px_1fr]"
  data-testid="first-light"
>
  <ol class="space-y-1" aria-label="steps">
    {#each steps as name, i (name)}
      <li>
        <button
          class={[
            'flex w-full items-center gap-2 rounded px-2 py-1.5 text-start',
            step === i && 'bg-accent font-semibold text-accent-content',
          ]}
          aria-current={step === i ? 'step' : undefined}
          onclick={() => go(i)}
        >
          <span class="mono w-5 text-center" aria-hidden="true">{done[i] ? '✓' : i + 1}</span>{name}
          {#if done[i]}<span class="sr-only">done</span>{/if}
        </button>
      </li>
    {/each}
  </ol>
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <section class="panel min-w-0 space-y-4 p-5" aria-label={steps[step]} bind:this={section} {onkeydown}>
    <h1 class="text-xl font-semibold" tabindex="-1" bind:this={heading}>{steps[step]}</h1>
    {#if step === 0}<Meet ondone={() => go(1)} />
    {:else if step === 1}<Ports bind:line bind:desk ondone={() => go(2)} />
    {:else if step === 2}<Sheet {line} ondone={() => go(3)} />
    {:else if step === 3}<Inside bind:port={desk} ondone={() => go(4)} />
    {:else if step === 4}<Prove bind:overruled ondone={() => go(5)} />
    {:else}<Apply {overruled} onback={() => go(4)} />{/if}
  </section>
</div>
