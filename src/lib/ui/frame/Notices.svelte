<script lang="ts">
  import { useSession } from '../../session/index';
  import { download } from './files';
  import type { StoreTrouble } from '../../session/index';
  const session = useSession();
  const TROUBLES: Record<StoreTrouble, string> = {
    blocked:
      'Another tab holds an older form of the storage open. Close the other tabs of Jolly Gate and reload.',
    newer:
      'This browser holds sites of a newer Jolly Gate. They are left alone; what you do here lives in this window only. Export it before you close.',
    quota:
      'The browser has no room left. Nothing is lost: this window still has everything. Export the files, or free some room.',
    lost: 'The browser closed the storage. Nothing is lost: this window still has everything. Export the files, then reload.',
    unreadable: 'A kept site cannot be read by this version. It is left as it is; the others are here.',
    unavailable:
      'This browser keeps nothing here (private window?). What you do lives in this window only. Export it before you close.',
  };
  /** A notice goes by itself once it could be read. */
  $effect(() => {
    if (!session.notice) return;
    const timer = setTimeout(() => (session.notice = ''), 7000);
    return () => clearTimeout(timer);
  });
  const drilled = $derived([
    ...session.drill.cut.map((c) => `${c} cut`),
    ...session.drill.dead.map((d) => `${d} dead beyond its gateway`),
  ]);
</script>

<div class="flex flex-col" aria-live="polite">
  {#if drilled.length}
    <p class="banner bg-warning text-warning-content" data-testid="drill-banner">
      <b>drill:</b>
      {drilled.join(', ')} · <span class="key">Esc</span> restores
      <button class="btn ms-2 btn-xs" onclick={() => session.setDrill({})}>restore</button>
    </p>
  {/if}
  {#if !session.leading}
    <p class="banner bg-info text-info-content" data-testid="following">
      This site is open in another tab, which leads; this one follows.
      <button class="btn ms-2 btn-xs" data-testid="take-over" onclick={() => session.takeOver()}
        >Take over here</button
      >
    </p>
  {/if}
  {#if session.storeTrouble}
    <p class="banner bg-warning text-warning-content" role="alert">{TROUBLES[session.storeTrouble]}</p>
  {/if}
  {#each session.unopened as site, i (i)}
    <p class="banner bg-warning text-warning-content" role="alert" data-testid="unopened">
      {site.name} cannot be opened; it is kept as it is, and everything else works.
      <button class="btn ms-2 btn-xs" onclick={() => download(site.files)}>Download its files</button>
    </p>
  {/each}
  {#if session.workerTrouble}
    <p class="banner bg-warning text-warning-content" role="alert">
      The proof stopped ({session.workerTrouble}). Your text is safe; the next edit tries again.
    </p>
  {/if}
  <!-- Below the banners, of which it must cover nothing. -->
  <div class="below">
    {#if session.nav.newZone && session.site.zones.some((z) => z.name === session.nav.newZone)}
      {@const zone = session.nav.newZone}
      <p class="toast-line bg-neutral text-neutral-content" role="status" data-testid="new-zone">
        Nothing passes from or to {zone} yet.
        <button
          class="btn ms-2 btn-xs"
          data-testid="new-zone-show"
          onclick={() => {
            session.nav.focusZone = zone;
            session.nav.view = 'passage';
            session.nav.newZone = undefined;
          }}>Show what its place suggests</button
        >
        <button class="btn ms-2 btn-xs" onclick={() => (session.nav.newZone = undefined)}>Not now</button>
      </p>
    {:else if session.notice}
      <p class="toast-line bg-neutral text-neutral-content" role="status" data-testid="notice">
        {session.notice}
        <button class="btn ms-2 btn-xs" onclick={() => (session.notice = '')}>Got it</button>
      </p>
    {/if}
  </div>
</div>

<style>
  .below {
    position: relative;
    z-index: 50;
    height: 0;
  }
  .toast-line {
    position: absolute;
    left: 50%;
    top: 12px;
    width: max-content;
    transform: translateX(-50%);
    max-width: 80vw;
    padding: 0.375rem 0.75rem;
    border-radius: var(--radius-box);
  }
  .banner {
    padding: 0.375rem 0.75rem;
  }
</style>
