<script lang="ts">
  import { formatIp } from '#core/addr';
  import { maskSecrets } from '#core/notation';
  import { useSession } from '../../session/index';
  import { openAsNew, openInto } from './files';
  // What was dropped, chosen or pasted, and where it could go.
  const session = useSession();
  const incoming = $derived(session.nav.incoming);
  let dialog = $state<HTMLDialogElement>();
  $effect(() => dialog?.showModal());
  const close = () => (session.nav.incoming = undefined);
  const REPORTS = ['link', 'addr', 'route'] as const;
  function toSheet() {
    if (incoming?.what !== 'sheet') return;
    session.sheet = incoming.text;
    session.sheetRows = {};
    session.firstLight = true;
    session.nav.view = 'first-light';
    void session.save();
    close();
  }
</script>

<dialog
  bind:this={dialog}
  class="m-auto w-[34rem] max-w-[94vw] panel p-4 text-base-content shadow-xl"
  aria-labelledby="incoming-head"
  onclose={close}
  data-testid="incoming"
>
  {#if incoming?.what === 'site'}
    {@const site = incoming}
    <h2 class="mb-2 h2" id="incoming-head">Open {site.name}</h2>
    <ul class="mb-2">
      {#each [['the draft', site.draft], ['what the box runs', site.running], ['start-up', site.startup]] as const as [says, files] (says)}
        {#if files.length}<li>{says}: <span class="mono">{files.map((f) => f.name).join(' ')}</span></li>{/if}
      {/each}
    </ul>
    {#if site.lacking}<p class="text-warning">
        ▲ {site.lacking} secret{site.lacking > 1 ? 's are' : ' is'} not in it and not at hand: type
        {site.lacking > 1 ? 'them' : 'it'} in the slip before you try it.
      </p>{/if}
    {#if site.left.length}
      <p class="quiet">What was left out:</p>
      <ul class="max-h-32 overflow-auto">
        {#each site.left as line (line)}<li class="quiet">{line}</li>{/each}
      </ul>
    {/if}
    <div class="mt-3 flex flex-wrap gap-2">
      <button
        class="btn btn-primary btn-sm"
        data-testid="open-new"
        onclick={() => {
          openAsNew(session, site);
          close();
        }}>As a new site</button
      >
      <button
        class="btn btn-sm"
        data-testid="open-into"
        title="Instead of what this site says; undo takes it back"
        onclick={() => {
          openInto(session, site);
          close();
        }}>Into {session.name}</button
      >
      <button class="btn btn-ghost btn-sm" onclick={close}>Leave it</button>
    </div>
  {:else if incoming?.what === 'sheet'}
    <h2 class="mb-2 h2" id="incoming-head">That looks like a provider’s sheet</h2>
    <pre
      class="mono mb-3 max-h-48 overflow-auto rounded border border-base-300 bg-base-200 p-2 text-[12px] whitespace-pre-wrap">{maskSecrets(
        incoming.text,
      ).replace(/((?:pass\w*|kennwort|secret)\s*[:=]\s*)\S+/gi, '$1••••••')}</pre>
    <p class="mb-3 quiet">
      First light reads it back row by row, to correct and to tick off, and writes the uplink.
      {#if session.sheet.trim()}It takes the place of the sheet that this site has.{/if}
    </p>
    <button class="btn btn-primary btn-sm" data-testid="sheet-take" onclick={toSheet}
      >Read it in First light</button
    >
    <button class="btn btn-ghost btn-sm" onclick={close}>Leave it</button>
  {:else if incoming?.what === 'capture'}
    {@const { capture } = incoming}
    <h2 class="mb-2 h2" id="incoming-head">A capture: {incoming.name}</h2>
    <p class="mb-2 quiet">
      {capture.frames} frames, {capture.flows.length} flows{capture.left
        ? `; ${capture.left} frames are no IP, cut too short, or for their own segment only`
        : ''}. Follow one, and the bench says what decides it in the draft.
    </p>
    <ul class="max-h-72 overflow-auto" data-testid="capture-flows">
      {#each capture.flows as flow, i (i)}
        <li class="flex items-baseline gap-2 border-t border-base-300 py-0.5">
          <span class="mono flex-1">{formatIp(flow.source)} → {formatIp(flow.destination)}</span>
          <span class="mono">{flow.service}</span>
          <span class="quiet">{flow.frames}</span>
          <button
            class="link text-primary"
            data-testid={`follow-${i}`}
            onclick={() => {
              session.nav.view = 'proof';
              void session.trace(formatIp(flow.source), formatIp(flow.destination), flow.service);
              close();
            }}>follow</button
          >
        </li>
      {/each}
    </ul>
    <button class="btn mt-3 btn-ghost btn-sm" onclick={close}>Leave it</button>
  {:else if incoming?.what === 'reports'}
    <h2 class="mb-2 h2" id="incoming-head">Reports of a Linux box</h2>
    <ul class="mb-2">
      {#each REPORTS as r (r)}
        <li>
          {incoming.given[r] === undefined ? '□ still wanted:' : '■ here:'}
          <span class="mono">{r === 'link' ? 'ip -j -d link' : `ip -j ${r}`}</span>
        </li>
      {/each}
    </ul>
    <p class="mb-3 quiet">
      Drop the others onto the window, or paste them; all three together make a box file.
    </p>
    <button class="btn btn-ghost btn-sm" onclick={close}>Leave them</button>
  {/if}
</dialog>
