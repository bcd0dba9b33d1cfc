<script lang="ts">
  import { formatIp, formatRangeShort, isIpv4, networkOf, parsePrefix, withLength } from '#core/addr';
  import type { Ipv4, Prefix } from '#core/addr';
  import {
    changeClauses,
    cloneNetwork,
    nameFault,
    poolOps,
    renumberNetwork,
    resizeNetwork,
  } from '#core/edits';
  import type { Thought } from '#core/edits';
  import { nextFreeSubnet } from '#core/model';
  import { freeName } from '#core/model';
  import { makingFaultText } from '#words';
  import { useSession } from '../../session/index';
  import RulerBar from './RulerBar.svelte';
  import { hostsIn } from './rulers';
  import type { PoolBand, Ruler } from './rulers';
  // One network: to scale, how full it is, and what can be done with it as a whole.
  let { ruler }: { ruler: Ruler } = $props();
  const session = useSession();
  const { iface } = $derived(ruler);
  const name = $derived(iface.name);
  let doing = $state<'resize' | 'renumber' | 'clone' | undefined>();
  let why = $state('');

  function setPool(pool: PoolBand) {
    const ranges = iface.pools
      .flatMap((p) => p.ranges)
      .map((r, nth) =>
        nth === pool.nth
          ? {
              first: (ruler.net.address + pool.first) as Ipv4,
              last: (ruler.net.address + pool.last) as Ipv4,
            }
          : r,
      );
    session.apply(
      changeClauses(session.site, iface.statement, poolOps(session.site, iface, ranges)),
      `${name}: lends ${ranges.map(formatRangeShort).join(' ')}`,
    );
  }

  // ---- another length, another subnet, a second one like it
  let length = $state(24);
  let subnet = $state('');
  let cloneName = $state('');
  let cloneTag = $state('');
  function open(what: NonNullable<typeof doing>) {
    doing = doing === what ? undefined : what;
    why = '';
    length = ruler.net.length;
    const next = nextFreeSubnet(session.model, ruler.net.length);
    subnet = next ? `${formatIp(next.address)}/${next.length}` : '';
    cloneName = freeName(session.site, 'interface', `${name.slice(0, 13)}2`);
    const tags = session.site.interfaces.flatMap((i) => i.tag ?? []);
    cloneTag = iface.tag === undefined ? '' : String(nextTag(iface.tag, tags));
  }
  function nextTag(from: number, used: readonly number[]): number {
    let tag = from + 1;
    while (used.includes(tag) && tag < 4094) tag++;
    return tag;
  }
  const typed = $derived.by((): Prefix<Ipv4> | undefined => {
    const p = parsePrefix(subnet.trim());
    return p && isIpv4(p.address) ? (networkOf(p) as Prefix<Ipv4>) : undefined;
  });
  const thought = $derived.by((): Thought | { readonly overlaps: string } | undefined => {
    const { site, wiring } = session;
    if (doing === 'resize')
      return length === ruler.net.length ? undefined : resizeNetwork(site, wiring, iface, ruler.net, length);
    if (doing === 'renumber' && typed) return renumberNetwork(site, wiring, iface, ruler.net, typed);
    if (doing === 'clone' && typed)
      return cloneNetwork(site, iface, {
        name: cloneName.trim(),
        tag: cloneTag.trim() ? Number(cloneTag) : undefined,
        net: typed,
      });
    return undefined;
  });
  const after = $derived(
    doing === 'resize' ? length : doing === 'renumber' ? (typed?.length ?? ruler.net.length) : undefined,
  );
  const wide = $derived(doing === 'resize' ? networkOf(withLength(ruler.net, length)) : undefined);
  function write() {
    if (doing === 'clone' && nameFault(session.site, 'interface', cloneName.trim())) {
      why = makingFaultText(nameFault(session.site, 'interface', cloneName.trim())!);
      return;
    }
    if (!thought) {
      why =
        doing === 'resize' ? 'that is the length it has' : `“${subnet}” is no subnet such as 10.61.25.0/24`;
      return;
    }
    if ('overlaps' in thought) {
      why = `that subnet would share addresses with ${thought.overlaps}`;
      return;
    }
    const label =
      doing === 'clone'
        ? `${cloneName} like ${name}`
        : doing === 'resize'
          ? `${name} with /${length}`
          : `${name} becomes ${subnet}`;
    if (session.apply([...thought.changes], label)) doing = undefined;
    else why = session.notice;
  }
</script>

<li class="network when-near" style:--high="62px" data-testid={`network-${name}`}>
  <div class="flex flex-wrap items-baseline gap-x-3">
    <button
      class="cursor-pointer text-[14px] font-semibold hover:underline"
      onclick={() => session.nav.select(iface.statement.subject)}>{name}</button
    >
    {#if iface.tag !== undefined}<span class="mono quiet">tag {iface.tag}</span>{/if}
    <span class="mono">{ruler.learned ? `⟨${ruler.text}⟩` : ruler.text}</span>
    {#if !ruler.primary && !ruler.learned}<span class="quiet">second subnet</span>{/if}
    {#if iface.uplink}<span class="quiet">upstream{ruler.learned ? ', learned' : ''}</span>{/if}
    <span class="quiet" data-testid={`count-${name}`}>
      {ruler.count.hosts} hosts: {ruler.count.lent
        ? `${ruler.count.lent} lent, ${ruler.count.leased} of them leased`
        : 'nothing lent'}, {ruler.count.kept} kept, {ruler.count.fixed} fixed, {ruler.count.free} free
    </span>
    {#each ruler.clashes as c (c.who)}<span class="font-semibold text-error"
        >■ shares addresses with {c.who}</span
      >{/each}
    {#if !iface.uplink}
      <span class="ms-auto flex gap-1">
        {#each [['resize', 'length'], ['renumber', 'renumber'], ['clone', 'clone']] as const as [what, word] (what)}
          {#if what !== 'clone' || (ruler.primary && iface.carrier === 'on')}<button
              class="btn h-6 min-h-0 px-1.5 btn-xs"
              aria-expanded={doing === what}
              data-testid={`${what}-${name}`}
              onclick={() => open(what)}>{word}</button
            >{/if}
        {/each}
        {#if ruler.primary}<button
            class="btn h-6 min-h-0 px-1.5 btn-xs"
            data-testid={`second-${name}`}
            onclick={() => session.nav.make('second-subnet', { interface: name })}>+ subnet</button
          >{/if}
      </span>
    {/if}
  </div>
  <RulerBar
    {ruler}
    onpool={setPool}
    onlength={(to) => {
      if (doing !== 'resize') open('resize');
      length = to;
    }}
  />
  {#if doing}
    <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
    <form
      class="mt-1 flex flex-wrap items-end gap-2 rounded border border-dashed border-base-300 p-2"
      data-testid={`form-${name}`}
      onsubmit={(e) => {
        e.preventDefault();
        write();
      }}
      onkeydown={(e) => {
        if (e.key !== 'Escape') return;
        e.stopPropagation();
        doing = undefined;
      }}
    >
      {#if doing === 'resize'}
        <label
          >length <select class="select w-40 select-xs" bind:value={length} data-testid="length"
            >{#each Array.from({ length: 15 }, (_, i) => 16 + i) as n (n)}<option value={n}
                >/{n} · {hostsIn(n)} hosts</option
              >{/each}</select
          ></label
        >
        {#if wide}<span class="mono">{formatIp(wide.address)}/{wide.length}</span>{/if}
      {:else}
        {#if doing === 'clone'}
          <label>name <input class="field mono w-32" bind:value={cloneName} data-testid="clone-name" /></label
          >
          <label
            >VLAN tag <input class="field mono w-20" bind:value={cloneTag} data-testid="clone-tag" /></label
          >
        {/if}
        <label
          >subnet <input
            class="field mono w-40"
            bind:value={subnet}
            data-testid="new-subnet"
            aria-invalid={!typed}
          /></label
        >
      {/if}
      <button class="btn btn-sm btn-primary" data-testid="write-network">Write</button>
      {#if after !== undefined}<span data-testid="capacity"
          >room for {ruler.count.hosts} now, {hostsIn(after)} after</span
        >{/if}
      {#if thought && 'overlaps' in thought}<span class="font-semibold text-error"
          >■ shares addresses with {thought.overlaps}</span
        >
      {:else if thought}
        {#if thought.byHand.length}<span data-testid="by-hand"
            >▲ by hand, each with an address of its own: {thought.byHand.join(', ')}</span
          >{/if}
        {#if thought.left.length}<span class="quiet">does not come along: {thought.left.join(', ')}</span
          >{/if}
      {/if}
      {#if why}<p class="w-full font-semibold text-error" role="alert">{why}</p>{/if}
    </form>
  {/if}
</li>

<style>
  .network {
    padding: 6px 0 8px;
    border-top: 1px solid var(--color-base-300);
  }
</style>
