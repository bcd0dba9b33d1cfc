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
    lost: 'The browser cannot store anything now: it closed its storage, or the disk is full. Nothing is lost: this window still has everything, and keeps it as soon as it can. Export the files before you close it.',
    unreadable: 'A kept site cannot be read by this version. It is left as it is; the others are here.',
    unavailable:
      'This browser keeps nothing here (private window?). What you do lives in this window only. Export it before you close.',
  };
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
    <p class="banner bg-warning text-warning-content" role="alert" data-testid="store-trouble">
      {TROUBLES[session.storeTrouble]}
    </p>
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
</div>

<style>
  .banner {
    padding: 0.375rem 0.75rem;
  }
</style>
