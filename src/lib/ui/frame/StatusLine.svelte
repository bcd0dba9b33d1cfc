<script lang="ts">
  import { useSession } from '../../session/index';
  import { deskGroups, desksSentence } from '../ladder/ladders';
  // One line of a fixed height: what was just done, or what the keys are. It covers nothing and moves nothing.
  const session = useSession();
  /** A notice goes by itself once it could be read. */
  $effect(() => {
    if (!session.notice) return;
    const timer = setTimeout(() => (session.notice = ''), 12_000);
    return () => clearTimeout(timer);
  });
  /** How findings, proof and trial stand, for those who hear it; told anew only when a proof is there. */
  let spoken = $state('');
  $effect(() => {
    if (session.proving || !session.isLookedAt || !session.derived) return;
    const count = (severity: string) => session.findings.filter((f) => f.severity === severity).length;
    const { draft } = session.derived;
    const broken = draft.promises.filter((p) => p.result === 'fail').length;
    spoken = [
      `${count('error')} errors, ${count('warning')} warnings`,
      desksSentence(deskGroups(draft)),
      broken ? `${broken} promises not kept` : '',
      session.box.trial ? 'a trial runs' : '',
    ]
      .filter(Boolean)
      .join('; ');
  });
  const newZone = $derived(
    session.site.zones.some((z) => z.name === session.nav.newZone) ? session.nav.newZone : undefined,
  );
</script>

<p class="sr-only" role="status" aria-label="how it stands">{spoken}</p>
<div class="line" role="status" aria-label="what was done">
  {#if newZone}
    <p data-testid="new-zone" class="told">
      <span class="text">Nothing more passes from or to {newZone} yet.</span>
      <button
        class="link"
        data-testid="new-zone-show"
        onclick={() => {
          session.nav.focusZone = newZone;
          session.nav.view = 'passage';
          session.nav.newZone = undefined;
        }}>Show what its place suggests</button
      >
      <button class="link" onclick={() => (session.nav.newZone = undefined)}>Not now</button>
    </p>
  {:else if session.notice}
    <p data-testid="notice" class="told">
      <span class="text" title={session.notice}>{session.notice}</span>
      <button class="link" onclick={() => (session.notice = '')}>Got it</button>
    </p>
  {:else}
    <p class="quiet">
      <span class="key">/</span> say <span class="key">a</span> add <span class="key">f</span> findings
      <span class="key">?</span> keys and words
    </p>
  {/if}
</div>

<style>
  .line {
    height: 26px;
    padding: 3px 12px;
    border-top: 1px solid var(--color-base-300);
    background: var(--color-base-200);
    font-size: 12px;
    line-height: 20px;
    overflow: hidden;
    white-space: nowrap;
  }
  .told {
    display: flex;
    gap: 12px;
    font-weight: 600;
  }
  .text {
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
