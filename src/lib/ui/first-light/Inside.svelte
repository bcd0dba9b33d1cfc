<script lang="ts">
  import { formatIp, formatPrefix, isIpv4, networkOf, parsePrefix } from '#core/addr';
  import type { Ipv4, Prefix } from '#core/addr';
  import { USUAL_ANSWERS, usualPool, writeInside } from '#core/edits';
  import type { InsideTerms } from '#core/edits';
  import { parseDocument, isName, isReserved } from '#core/notation';
  import { freePublic, nextFreeSubnet } from '#core/model';
  import { findingText } from '#words';
  import { useSession } from '../../session/index';
  import Statements from './Statements.svelte';
  // The first network behind the box as one set, each part of it changeable.
  let { port = $bindable(), ondone }: { port: string; ondone: () => void } = $props();
  const session = useSession();
  const site = $derived(session.site);
  let name = $state('office');
  /** On a live box: the network that the port has now, in which whoever works here sits. */
  const here = $derived.by(() => {
    const seen = session.isLive ? session.live?.sight?.ports.find((p) => p.name === port) : undefined;
    const own = seen?.addresses.map((a) => parsePrefix(a)).find((p) => p && isIpv4(p.address));
    return own ? formatPrefix(networkOf(own)) : '';
  });
  // svelte-ignore state_referenced_locally
  let subnetText = $state(here);
  let poolText = $state<string | undefined>();
  let answers = $state(USUAL_ANSWERS);
  let out = $state<NonNullable<InsideTerms['out']>>('all');
  let leavesAs = $state('');
  const ports = $derived([...site.ports.keys()]);
  const offered = $derived(nextFreeSubnet(session.model));
  const net = $derived.by((): Prefix<Ipv4> | undefined => {
    if (subnetText.trim() === '') return offered;
    const prefix = parsePrefix(subnetText.trim());
    return prefix && isIpv4(prefix.address) && prefix.length >= 8 && prefix.length <= 29
      ? (networkOf(prefix) as Prefix<Ipv4>)
      : undefined;
  });
  const pool = $derived(poolText ?? (net ? usualPool(net) : ''));
  const nameFault = $derived(
    !isName(name) || isReserved(name)
      ? 'up to 15 lower-case letters, digits and hyphens, a letter first'
      : site.interfaces.some((i) => i.name === name)
        ? `there is an interface ${name} already`
        : '',
  );
  const written = $derived(
    net && !nameFault
      ? writeInside(site, name, port, net, {
          pool: pool.trim(),
          answers: answers.trim(),
          out,
          leavesAs: leavesAs || undefined,
        })
      : undefined,
  );
  const fault = $derived(written && parseDocument(written.statements.join('\n'), '').problems[0]);
  const free = $derived(freePublic(session.model).map(formatIp));
  const isThere = $derived(site.interfaces.some((i) => !i.uplink && i.addresses.length > 0));
</script>

<p>
  One set: its addresses, its DHCP pool, names by the box, what it answers, what may pass, and what it shows
  outside. More networks come later, from <b>+ Add</b> on the board.
</p>
<div class="grid max-w-2xl grid-cols-2 gap-3 min-[1000px]:grid-cols-3">
  <label
    >name <input
      class="field mono"
      bind:value={name}
      aria-invalid={nameFault !== ''}
      spellcheck="false"
      data-testid="inside-name"
    /></label
  >
  <label
    >subnet <input
      class="field mono"
      bind:value={subnetText}
      placeholder={offered ? formatPrefix(offered) : ''}
      aria-invalid={!net}
      spellcheck="false"
      data-testid="inside-net"
    /></label
  >
  <label
    >port <select class="field" bind:value={port}
      >{#each ports as p (p)}<option>{p}</option>{/each}</select
    ></label
  >
  <label
    >DHCP pool <input
      class="field mono"
      value={pool}
      oninput={(e) => (poolText = e.currentTarget.value)}
      placeholder="none"
      spellcheck="false"
      data-testid="inside-pool"
    /></label
  >
  <label
    >the box answers <input
      class="field mono"
      bind:value={answers}
      placeholder="nothing"
      spellcheck="false"
      data-testid="inside-answers"
    /></label
  >
  <label
    >may go out <select class="field" bind:value={out} data-testid="inside-out"
      ><option value="all">everything</option><option value="web">web, names and time</option><option
        value="nothing">nothing</option
      ></select
    ></label
  >
  {#if free.length && out !== 'nothing'}
    <label
      >shows outside <select class="field mono" bind:value={leavesAs}
        ><option value="">the address of the line</option>{#each free as a (a)}<option>{a}</option
          >{/each}</select
      ></label
    >
  {/if}
</div>
{#if nameFault}<p class="text-error" role="alert">{nameFault}</p>{/if}
{#if !net}<p class="text-error" role="alert">
    a network such as {offered ? formatPrefix(offered) : '10.61.20.0/24'}, from /8 to /29
  </p>{/if}
{#if fault}<p class="text-error" role="alert">{findingText(fault)}</p>{/if}
{#if offered && subnetText.trim() === ''}<p class="quiet">
    {formatPrefix(offered)} is the next free one; the uplink has none of it.
  </p>{/if}
{#if written && !nameFault}
  <button
    class="btn btn-primary btn-sm"
    data-testid="write-inside"
    disabled={!!fault}
    onclick={() => session.apply(written.changes, 'the first inside network') && ondone()}
    >Write it, and on</button
  >
  <Statements list={written.statements} />
{/if}
{#if isThere}<button class="btn btn-sm" onclick={ondone}>One is there: on</button>{/if}
