<script lang="ts">
  import { holdsSecrets } from '#core/edits';
  import { twinSite } from '#core/site';
  import { useSession } from '../../session/index';
  import { exportFiles } from './files';
  // What goes along with the draft when the site is taken away in files.
  let { onclose }: { onclose: () => void } = $props();
  const session = useSession();
  const files = $derived([...session.files, ...session.box.running, ...session.box.startup]);
  const hasSecrets = $derived(files.some((f) => holdsSecrets(f.text)));
  let secrets = $state(false);
  let box = $state(session.changes.length > 0 || !session.saved);
  /** The name of the other one of two boxes. */
  const other = $derived(twinSite(session.site)?.box?.name);
  let twin = $state(false);
  let dialog = $state<HTMLDialogElement>();
  $effect(() => dialog?.showModal());
</script>

<dialog
  bind:this={dialog}
  class="m-auto w-[28rem] max-w-[94vw] panel p-4 text-base-content shadow-xl"
  aria-labelledby="export-head"
  {onclose}
>
  <h2 class="mb-2 h2" id="export-head">Export {session.name}</h2>
  <p class="mb-2 quiet">
    One file for each of the site, named by site and day: {session.files.map((f) => f.name).join(', ')}.
  </p>
  <label class="flex items-center gap-2 py-1">
    <input type="checkbox" class="checkbox checkbox-xs" bind:checked={box} data-testid="export-box" />
    what the box runs, and its start-up, too
  </label>
  {#if other !== undefined}
    <label class="flex items-center gap-2 py-1">
      <input type="checkbox" class="checkbox checkbox-xs" bind:checked={twin} data-testid="export-twin" />
      the box file of {other}, the second box, too
    </label>
  {/if}
  {#if hasSecrets}
    <label class="flex items-center gap-2 py-1">
      <input
        type="checkbox"
        class="checkbox checkbox-xs"
        bind:checked={secrets}
        data-testid="export-secrets"
      />
      with the secrets of logins, readable by whoever has the files
    </label>
  {/if}
  <form
    class="mt-3 flex gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      exportFiles(session, { secrets, box, twin });
      dialog?.close();
    }}
  >
    <button class="btn btn-primary btn-sm" data-testid="export">Export</button>
    <button type="button" class="btn btn-ghost btn-sm" onclick={() => dialog?.close()}>Leave it</button>
  </form>
</dialog>
