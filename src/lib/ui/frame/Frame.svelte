<script lang="ts">
  import { onMount } from 'svelte';
  import { VIEWS, remembered, useSession } from '../../session/index';
  import Board from '../board/Board.svelte';
  import Strip from '../proof/Strip.svelte';
  import Findings from '../slip/Findings.svelte';
  import Slip from '../slip/Slip.svelte';
  import Text from '../text/Text.svelte';
  import Maker from '../making/Maker.svelte';
  import Wants from '../making/Wants.svelte';
  import Head from './Head.svelte';
  import Incoming from './Incoming.svelte';
  import Keys from './Keys.svelte';
  import Notices from './Notices.svelte';
  import StatusLine from './StatusLine.svelte';
  import SayLine from './SayLine.svelte';
  import { readFiles, readPasted, tooMuch } from './files';

  let {
    demo,
  }: { demo: (site?: 'branch') => Promise<{ name: string; files: { name: string; text: string }[] }> } =
    $props();
  const session = useSession();

  const typingIn = (target: EventTarget | null) =>
    target instanceof HTMLElement &&
    target.closest('input, textarea, select, [contenteditable], [data-editor]') !== null;

  function onkeydown(event: KeyboardEvent) {
    const mod = event.ctrlKey || event.metaKey;
    if (mod && !event.altKey && event.key.toLowerCase() === 'z' && !typingIn(event.target)) {
      event.preventDefault();
      if (event.shiftKey) session.redo();
      else session.undo();
      return;
    }
    if (mod && event.key.toLowerCase() === 'y' && !typingIn(event.target)) {
      event.preventDefault();
      session.redo();
      return;
    }
    if (event.key === 'Escape') {
      if (session.nav.help) session.nav.help = false;
      else if (session.nav.saying !== undefined) session.nav.saying = undefined;
      else if (session.nav.making) session.nav.making = undefined;
      else if (session.nav.drawer) session.nav.drawer = false;
      else if (session.drill.cut.length || session.drill.dead.length) session.setDrill({});
      else if (!typingIn(event.target)) session.nav.select();
      return;
    }
    if (mod || event.altKey || typingIn(event.target)) return;
    if (event.key === '/') {
      event.preventDefault();
      session.nav.say();
    } else if (event.key === '?') session.nav.help = !session.nav.help;
    else if (event.key === 'a') {
      event.preventDefault();
      session.nav.want(thingAt(document.activeElement));
    } else if (event.key === 'f') session.nav.drawer = !session.nav.drawer;
    else if (/^[1-8]$/.test(event.key)) session.nav.view = VIEWS[Number(event.key) - 1]!;
  }

  /** What the keyboard is at on the board: a slab, the head of a port or of a zone. */
  function thingAt(element: Element | null): string | undefined {
    const at = element?.closest<HTMLElement>('[data-at]')?.dataset.at;
    return at?.startsWith('head/') ? at.replace('head/', 'port/') : at;
  }

  async function ondrop(event: DragEvent) {
    const files = [...(event.dataTransfer?.files ?? [])];
    if (!files.length) return;
    event.preventDefault();
    await readFiles(session, files);
  }

  /** What is too much for a page is refused before a field or the editor begins to read it; what stands there stays. */
  function onpastecapture(event: ClipboardEvent) {
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (!tooMuch(session, 'What was pasted', text.length)) return;
    event.preventDefault();
    event.stopPropagation();
  }
  async function onpaste(event: ClipboardEvent) {
    if (typingIn(event.target)) return;
    const files = [...(event.clipboardData?.files ?? [])];
    if (files.length) await readFiles(session, files);
    else await readPasted(session, event.clipboardData?.getData('text/plain') ?? '');
  }

  function onbeforeunload(event: BeforeUnloadEvent) {
    session.flush();
    if (session.isUnkept) event.preventDefault();
  }

  /** The view that is drawn: what is left is taken away in one task, and what comes is drawn in the next. */
  let drawn = $state<typeof session.nav.view | ''>(session.nav.view);
  $effect(() => {
    const next = session.nav.view;
    if (next === drawn) return;
    drawn = '';
    const timer = setTimeout(() => (drawn = next));
    return () => clearTimeout(timer);
  });
  /** Views that come when they are opened, or while nobody does anything. */
  const LATER = {
    'ways-out': () => import('../ways-out/WaysOut.svelte'),
    subnets: () => import('../subnets/Subnets.svelte'),
    passage: () => import('../passage/Passage.svelte'),
    proof: () => import('../proof/Proof.svelte'),
    state: () => import('../state/State.svelte'),
    change: () => import('../change/Change.svelte'),
    book: () => import('../book/Book.svelte'),
    'first-light': () => import('../first-light/FirstLight.svelte'),
  };
  /** After the page was first drawn, milliseconds. */
  const QUIET = 1500;
  onMount(() => {
    const timer = setTimeout(() => {
      for (const view of ['passage', 'proof', 'change'] as const) void LATER[view]().catch(() => undefined);
    }, QUIET);
    return () => clearTimeout(timer);
  });
  /** What a view brings is read in one task and drawn in the next. */
  async function apart<T>(module: Promise<T>): Promise<T> {
    const read = await module;
    await new Promise((resolve) => setTimeout(resolve));
    return read;
  }
  /** Views beside which the slip stands: where things are chosen that it can show. */
  const hasSlip = $derived(['board', 'ways-out', 'subnets', 'passage'].includes(session.nav.view));
  let theme = $state('');
  onMount(() => {
    theme = remembered.get('jolly-gate theme') ?? '';
  });
  $effect(() => {
    const dark = matchMedia('(prefers-color-scheme: dark)').matches;
    document.documentElement.dataset.theme = theme || (dark ? 'lantern' : 'daylight');
    if (theme) remembered.set('jolly-gate theme', theme);
  });
</script>

<svelte:window
  {onkeydown}
  {onpaste}
  {onpastecapture}
  {ondrop}
  {onbeforeunload}
  onpagehide={() => session.flush()}
  ondragover={(e) => e.preventDefault()}
/>
<svelte:document onvisibilitychange={() => document.visibilityState === 'hidden' && session.flush()} />

<div class="frame">
  <Head
    {demo}
    onTheme={() => (theme = document.documentElement.dataset.theme === 'lantern' ? 'daylight' : 'lantern')}
  />
  <Notices />
  {#if session.ready}
    <div class="middle">
      <main class="view" aria-label={session.nav.view}>
        {#if drawn === 'board'}<Board />
        {:else if drawn === 'text'}<Text />
        {:else if drawn}
          {#await apart(LATER[drawn]())}<p class="p-6 quiet">Opening …</p>{:then { default: View }}<View
            />{/await}
        {/if}
      </main>
      {#if session.nav.making}
        {#key `${session.nav.making.id} ${JSON.stringify(session.nav.making.place)}`}<Maker
            want={session.nav.making}
          />{/key}
      {:else if session.nav.drawer}<Findings />
      {:else if hasSlip && session.nav.selection.length}<Slip />{/if}
    </div>
    <StatusLine />
    {#if session.nav.view !== 'first-light'}<Strip />{/if}
  {:else}
    <p class="p-6 quiet">Opening …</p>
  {/if}
</div>
{#if session.nav.saying !== undefined}<SayLine />{/if}
{#if session.nav.wanting}<Wants />{/if}
{#if session.nav.help}<Keys />{/if}
{#if session.nav.incoming}<Incoming />{/if}
{#if session.nav.connecting}
  {#await import('../live/Connect.svelte') then { default: Connect }}<Connect
      onclose={() => (session.nav.connecting = false)}
    />{/await}
{/if}

<style>
  .frame {
    display: grid;
    grid-template-rows: auto auto minmax(0, 1fr) auto auto;
    grid-template-columns: minmax(0, 1fr);
    height: 100%;
    min-height: 0;
  }
  .middle {
    display: flex;
    min-height: 0;
    grid-row: 3;
  }
  .view {
    flex: 1;
    position: relative;
    min-width: 0;
    overflow: auto;
  }
</style>
