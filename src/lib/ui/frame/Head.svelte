<script lang="ts">
  import { useSession } from '../../session/index';
  import type { View } from '../../session/index';
  import Mark from '../primitives/Mark.svelte';
  import Weight from '../primitives/Weight.svelte';
  import Export from './Export.svelte';
  import { readFiles } from './files';

  let {
    demo,
    onTheme,
  }: {
    demo: (site?: 'branch') => Promise<{ name: string; files: { name: string; text: string }[] }>;
    onTheme: () => void;
  } = $props();
  const session = useSession();
  let menu = $state(false);
  let menuAt = $state<HTMLElement>();
  let exporting = $state(false);
  let sites = $state<readonly { id: string; name: string; updated: number }[]>([]);
  let chooser = $state<HTMLInputElement>();
  const count = (s: string) => session.findings.filter((f) => f.severity === s).length;
  const views: { id: View; name: string }[] = [
    { id: 'board', name: 'Board' },
    { id: 'ways-out', name: 'Ways out' },
    { id: 'subnets', name: 'Subnets' },
    { id: 'passage', name: 'Passage' },
    { id: 'proof', name: 'Proof' },
    { id: 'state', name: 'State' },
    { id: 'change', name: 'Change' },
    { id: 'text', name: 'Text' },
  ];
  const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
  const live = $derived(session.live);
  const isLive = $derived(session.isLive);
  const ago = (ms: number) =>
    ms < 10_000 ? `${(Math.max(0, ms) / 1000).toFixed(1)} s` : `${Math.round(ms / 1000)} s`;
  const boxName = $derived(isLive ? `the live box ${live?.place ?? ''}` : 'the bench box');
  // The worst that is known is what is told: whoever reads that all agree looks no further.
  const byHand = $derived(live?.byHand ?? 0);
  const boxWord = $derived(
    session.box.trial
      ? session.isTrialOver
        ? 'trial is over'
        : `on trial ${clock(session.trialLeft)}`
      : byHand
        ? `by hand (${byHand})`
        : session.changes.length
          ? `draft differs in ${session.changes.length}`
          : session.saved
            ? 'all agree'
            : 'not saved',
  );
  const boxTitle = $derived(
    session.box.trial
      ? session.isTrialOver
        ? `The trial’s time is over: ${boxName} should have gone back`
        : `On trial: ${boxName} goes back by itself`
      : byHand
        ? `${byHand} changed by hand on ${boxName}: what is there is not what it was told`
        : session.changes.length
          ? `The draft differs from what ${boxName} runs in ${session.changes.length} statements`
          : session.saved
            ? 'Draft, running and start-up agree'
            : 'What runs is not saved to start-up',
  );
  const seat = $derived(session.derived?.seat);
  const lost = $derived(session.isOutOfReach || (!!seat?.running && !seat.draft));
  const seatTitle = $derived(
    seat
      ? `The seat${seat.supposed ? ', supposed' : ''}: now in by ${seat.running ?? 'nothing'}; with the draft by ${seat.draft ?? 'nothing'}`
      : '',
  );
  async function toggle() {
    menu = !menu;
    if (menu) sites = await session.sites();
  }
  const factory = [
    { name: 'box.gate', text: 'box edge:\nport p1:\nport p2:\nport p3:\nport p4:\n' },
    { name: 'wiring.gate', text: '' },
  ];
</script>

<!-- One row of fixed places: whatever is told in it, nothing in it moves, and it never becomes two. -->
<svelte:window
  onpointerdown={(e) => {
    if (menu && e.target instanceof Node && !menuAt?.contains(e.target)) menu = false;
  }}
/>
<header
  class="head panel flex h-11 items-center gap-1.5 rounded-none border-x-0 border-t-0 px-2 max-[899px]:gap-1"
>
  <!-- Where the box is live, what is told of it needs the room. -->
  <span class={['text-primary', isLive ? 'max-[1339px]:hidden' : 'max-[899px]:hidden']}
    ><Mark size={26} /></span
  >
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div
    class="relative flex-none"
    bind:this={menuAt}
    onkeydown={(e) => {
      if (e.key !== 'Escape' || !menu) return;
      e.stopPropagation();
      menu = false;
      menuAt?.querySelector('button')?.focus();
    }}
  >
    <button
      class="btn w-36 justify-start px-2 text-base font-semibold btn-ghost btn-sm max-[899px]:w-24"
      onclick={toggle}
      title={session.name}
      data-testid="site-menu"
      aria-expanded={menu}
    >
      <span class="truncate">{session.name || 'Jolly Gate'}</span>
      <span class="quiet" aria-hidden="true">▾</span>
    </button>
    {#if menu}
      <div
        class="panel absolute top-full left-0 z-40 mt-1 w-80 p-2 shadow-lg"
        role="group"
        aria-label="sites"
      >
        <label class="block px-2 pb-2"
          >name of this site <input
            class="field"
            value={session.name}
            maxlength="60"
            onchange={(e) => {
              session.name = e.currentTarget.value.trim() || session.name;
              void session.save();
            }}
          /></label
        >
        <p class="px-2 py-1 quiet">Sites kept in this browser</p>
        {#each sites as site (site.id)}
          <button
            class="btn w-full justify-start font-normal btn-ghost btn-sm"
            aria-current={site.id === session.id}
            onclick={() => {
              menu = false;
              void session.open(site.id);
            }}>{site.id === session.id ? '▸ ' : ''}{site.name}</button
          >
        {/each}
        <hr class="my-1 border-base-300" />
        <button
          data-testid="connect-live"
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          onclick={() => {
            menu = false;
            session.nav.connecting = true;
          }}>Connect to a box …</button
        >
        <button
          data-testid="first-light-new"
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          onclick={() => {
            menu = false;
            session.begin('New site', factory, { firstLight: true, factory: true });
          }}>New site: First light</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          onclick={async () => {
            menu = false;
            const d = await demo();
            session.begin(d.name, d.files);
          }}>Open the demo afresh</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          data-testid="demo-branch"
          onclick={async () => {
            menu = false;
            const d = await demo('branch');
            session.begin(d.name, d.files);
          }}>Open the demo of the branch</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          onclick={() => {
            menu = false;
            chooser?.click();
          }}>Open files …</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          onclick={() => {
            menu = false;
            exporting = true;
          }}>Export …</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          data-testid="open-book"
          onclick={() => {
            menu = false;
            session.nav.view = 'book';
          }}>Site book</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          data-testid="forget-secrets"
          onclick={async () => {
            if (
              !confirm(
                'Forget the secrets of all logins, in every site that this browser keeps? Drafts, what runs, start-up, history and sheets lose them, and cannot be undone to before. Export with secrets first if you may need them.',
              )
            )
              return;
            menu = false;
            await session.forgetSecrets();
          }}>Forget secrets everywhere …</button
        >
        <button
          class="btn w-full justify-start font-normal btn-ghost btn-sm"
          onclick={async () => {
            if (
              !confirm(`Forget “${session.name}” in this browser? Export it first if you may want it again.`)
            )
              return;
            menu = false;
            const gone = session.id;
            const other = sites.find((s) => s.id !== gone);
            if (other) await session.open(other.id);
            else {
              const d = await demo();
              session.begin(d.name, d.files);
            }
            await session.forget(gone);
          }}>Forget this site …</button
        >
      </div>
    {/if}
    <input
      bind:this={chooser}
      type="file"
      accept=".gate,.json,.txt,.csv,.pcap,.pcapng"
      multiple
      class="hidden"
      data-testid="open-files"
      onchange={async (e) => {
        const field = e.currentTarget;
        await readFiles(session, [...(field.files ?? [])]);
        // The same file may be chosen again.
        field.value = '';
      }}
    />
  </div>
  <span
    class={[
      'badge flex-none justify-start gap-1 border-base-300 bg-base-200 max-[899px]:w-auto max-[899px]:px-1',
      isLive ? 'w-32 px-1.5' : 'w-48',
    ]}
    data-testid="box-state"
    title={boxTitle}
  >
    <span aria-hidden="true"
      >{session.box.trial ? '◔' : byHand ? '▲' : session.changes.length ? '◇' : '◆'}</span
    >
    <span class="truncate max-[899px]:sr-only">{isLive ? '' : 'bench · '}{boxWord}</span>
  </span>
  {#if isLive && live}
    <button
      class={[
        'badge flex-none justify-start gap-1 px-1.5 hover:underline max-[899px]:w-auto max-[899px]:px-1',
        // A view more needs its room.
        session.firstLight ? 'w-36' : 'w-52',
        live.lost ? 'ground-error border-error' : 'border-base-300 bg-base-200',
      ]}
      title={live.lost
        ? `${live.place}: ${live.lost.text}; it is looked for on and on`
        : `The live box ${live.box} at ${live.place} answered just now`}
      data-testid="live-chip"
      onclick={() => {
        // A box that is another one now has to be met again.
        if (live.lost) session.nav.connecting = true;
        else session.nav.view = 'state';
      }}
    >
      <span aria-hidden="true">{live.lost ? '✕' : '●'}</span>
      <span class="truncate max-[899px]:sr-only"
        ><span class="mono text-[12px]">{live.lost ? '' : 'live '}{live.place}</span> ·
        {live.lost
          ? `no answer ${ago(session.now - live.lost.since)}`
          : `${ago(session.now - live.seenAt)} ago`}</span
      >
    </button>
  {:else if seat}
    <button
      class={[
        'badge w-28 flex-none justify-start gap-1 hover:underline max-[899px]:w-auto max-[899px]:px-1',
        lost ? 'ground-error border-error' : 'border-base-300 bg-base-200',
      ]}
      title={seatTitle}
      data-testid="seat"
      onclick={() => (session.nav.view = 'change')}
    >
      <span aria-hidden="true">{lost ? '✕' : '⌂'}</span>
      <span class="truncate max-[899px]:sr-only"
        >{seat.supposed ? '~' : ''}{seat.name}
        {session.isOutOfReach ? 'no answer' : lost ? 'cut off' : !seat.running ? 'has no way in' : ''}</span
      >
    </button>
  {/if}
  <nav class="flex flex-none max-[899px]:hidden" aria-label="views">
    {#if session.firstLight}
      <button
        class={[
          'btn btn-sm',
          session.nav.view === 'first-light'
            ? 'bg-accent font-semibold text-accent-content'
            : 'btn-ghost font-normal',
          'px-1.5',
        ]}
        aria-current={session.nav.view === 'first-light' ? 'page' : undefined}
        onclick={() => (session.nav.view = 'first-light')}>First light</button
      >
    {/if}
    {#each views as view (view.id)}
      <button
        class={[
          'btn btn-sm',
          session.nav.view === view.id
            ? 'bg-accent font-semibold text-accent-content'
            : 'btn-ghost font-normal',
          'px-1.5',
        ]}
        aria-current={session.nav.view === view.id ? 'page' : undefined}
        data-testid={`view-${view.id}`}
        onclick={() => (session.nav.view = view.id)}>{view.name}</button
      >
    {/each}
  </nav>
  <select
    class="field w-24 flex-none min-[900px]:hidden"
    aria-label="view"
    value={session.nav.view}
    onchange={(e) => (session.nav.view = e.currentTarget.value as View)}
  >
    {#if session.firstLight}<option value="first-light">First light</option>{/if}
    {#each views as view (view.id)}<option value={view.id}>{view.name}</option>{/each}
  </select>
  <div class="ms-auto flex flex-none items-center gap-1">
    <span class="w-4 text-center quiet" title={session.proving ? 'proving …' : 'proved'}
      ><span aria-hidden="true">{session.proving ? '…' : ''}</span></span
    >
    <span class="sr-only" role="status">{session.proving ? 'proving' : ''}</span>
    <button
      class="btn gap-1 px-2 btn-sm"
      data-testid="wants-button"
      title="What do you want? (a)"
      onclick={() => session.nav.want()}>+ <span class="max-[899px]:sr-only">Add</span></button
    >
    <button
      class="btn min-w-26 gap-1.5 px-1.5 btn-sm max-[899px]:min-w-0"
      aria-pressed={session.nav.drawer}
      data-testid="findings-button"
      title="Findings (f)"
      onclick={() => (session.nav.drawer = !session.nav.drawer)}
    >
      <Weight severity="error" count={count('error')} />
      <Weight severity="warning" count={count('warning')} />
      <Weight severity="advice" count={count('advice')} />
    </button>
    <button class="btn gap-1 px-2 btn-ghost btn-sm" onclick={() => session.nav.say()}
      ><span class="key">/</span> <span class="max-[1399px]:sr-only">say</span></button
    >
    <button
      class="btn px-2 btn-ghost btn-sm"
      aria-label="Undo"
      title="Undo (Ctrl+Z)"
      disabled={!session.undoSteps.length}
      onclick={() => session.undo()}>↶</button
    >
    <button
      class="btn px-2 btn-ghost btn-sm"
      aria-label="Redo"
      title="Redo (Ctrl+Y)"
      disabled={!session.redoSteps.length}
      onclick={() => session.redo()}>↷</button
    >
    <button
      class="btn px-2 btn-ghost btn-sm"
      onclick={onTheme}
      aria-label="Daylight or lantern"
      title="Daylight or lantern">◐</button
    >
    <button
      class="btn px-2 btn-ghost btn-sm"
      onclick={() => (session.nav.help = true)}
      aria-label="Keys"
      title="Keys (?)"><span class="key">?</span></button
    >
  </div>
</header>
{#if exporting}<Export onclose={() => (exporting = false)} />{/if}
