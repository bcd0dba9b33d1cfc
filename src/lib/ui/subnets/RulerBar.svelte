<script lang="ts">
  import { formatIp } from '#core/addr';
  import type { Ipv4 } from '#core/addr';
  import { movedPool } from './rulers';
  import type { PoolBand, Ruler } from './rulers';
  // One network to scale. The ends of its pools can be carried, or moved by arrow keys and taken with Enter.
  let {
    ruler,
    onpool,
    onlength,
  }: { ruler: Ruler; onpool: (pool: PoolBand) => void; onlength: (length: number) => void } = $props();
  let bar = $state<HTMLDivElement>();
  let moving = $state.raw<{ pool: PoolBand; end: 'first' | 'last' } | undefined>();
  const at = (n: number) => formatIp((ruler.net.address + n) as Ipv4);
  const pct = (n: number) => `${(n / ruler.size) * 100}%`;
  const shown = (p: PoolBand): PoolBand => (moving?.pool.nth === p.nth ? moving.pool : p);
  const WORDS = { box: 'the box', kept: 'kept for', fixed: 'fixed', leased: 'leased by', known: 'known' };

  function carry(event: PointerEvent, pool: PoolBand, end: 'first' | 'last') {
    if (ruler.iface.uplink) return;
    const handle = event.currentTarget as HTMLElement;
    handle.setPointerCapture(event.pointerId);
    moving = { pool, end };
    const place = (e: PointerEvent) => {
      const box = bar!.getBoundingClientRect();
      const to = ((e.clientX - box.left) / box.width) * ruler.size;
      moving = { pool: movedPool(ruler, pool, end, to), end };
    };
    const stop = () => {
      handle.removeEventListener('pointermove', place);
      handle.removeEventListener('pointerup', drop);
      handle.removeEventListener('pointercancel', let_go);
    };
    const drop = () => {
      stop();
      const done = moving?.pool;
      moving = undefined;
      if (done && (done.first !== pool.first || done.last !== pool.last)) onpool(done);
    };
    const let_go = () => {
      stop();
      moving = undefined;
    };
    handle.addEventListener('pointermove', place);
    handle.addEventListener('pointerup', drop);
    handle.addEventListener('pointercancel', let_go);
  }

  function onkeydown(event: KeyboardEvent, pool: PoolBand, end: 'first' | 'last') {
    const now = shown(pool);
    const by =
      (event.shiftKey ? 10 : 1) * (event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0);
    if (by) {
      event.preventDefault();
      moving = { pool: movedPool(ruler, now, end, now[end] + by), end };
    } else if (event.key === 'Enter' && moving) {
      event.preventDefault();
      const done = moving.pool;
      moving = undefined;
      onpool(done);
    } else if (event.key === 'Escape' && moving) {
      event.stopPropagation();
      moving = undefined;
    }
  }

  // ---- the end of the network: carried right it doubles, left it halves
  /** How far it is carried for one bit, CSS pixels. */
  const BIT = 24;
  let stretched = $state(0);
  const bits = (n: number) => Math.max(16, Math.min(30, ruler.net.length - n));
  function stretch(event: PointerEvent) {
    const handle = event.currentTarget as HTMLElement;
    handle.setPointerCapture(event.pointerId);
    const from = event.clientX;
    const place = (e: PointerEvent) => (stretched = Math.round((e.clientX - from) / BIT));
    const stop = () => {
      handle.removeEventListener('pointermove', place);
      handle.removeEventListener('pointerup', drop);
      handle.removeEventListener('pointercancel', stop);
    };
    const drop = () => {
      stop();
      if (stretched) onlength(bits(stretched));
      stretched = 0;
    };
    handle.addEventListener('pointermove', place);
    handle.addEventListener('pointerup', drop);
    handle.addEventListener('pointercancel', stop);
  }
  function stretchByKey(event: KeyboardEvent) {
    if (event.key === '+' || event.key === 'ArrowRight') stretched++;
    else if (event.key === '-' || event.key === 'ArrowLeft') stretched--;
    else if (event.key === 'Enter' && stretched) {
      onlength(bits(stretched));
      stretched = 0;
    } else if (event.key === 'Escape' && stretched) {
      event.stopPropagation();
      stretched = 0;
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div class="ruler" bind:this={bar} data-testid={`ruler-${ruler.iface.name}`}>
  {#each ruler.clashes as c (c.who)}<span
      class="clash"
      style:left={pct(c.first)}
      style:width={pct(c.last - c.first + 1)}
      title={`also on ${c.who}`}
    ></span>{/each}
  {#each ruler.pools as p (p.nth)}
    {@const now = shown(p)}
    <span
      class="pool"
      style:left={pct(now.first)}
      style:width={pct(now.last - now.first + 1)}
      title={`pool ${at(now.first)} – ${at(now.last)}`}
    ></span>
    {#if !ruler.iface.uplink}
      {#each ['first', 'last'] as const as end (end)}
        <span
          role="slider"
          tabindex="0"
          class="handle"
          style:left={pct(end === 'first' ? now.first : now.last + 1)}
          aria-label={`${end} address of the pool of ${ruler.iface.name}`}
          aria-valuemin={0}
          aria-valuemax={ruler.size - 1}
          aria-valuenow={now[end]}
          aria-valuetext={at(now[end])}
          data-testid={`pool-${end}-${ruler.iface.name}`}
          onpointerdown={(e) => carry(e, p, end)}
          onkeydown={(e) => onkeydown(e, p, end)}
          onblur={() => (moving = undefined)}
        ></span>
      {/each}
    {/if}
  {/each}
  {#each ruler.marks as m (m.at)}<span
      class={['mark', `is-${m.kind}`]}
      style:left={pct(m.at + 0.5)}
      title={`${m.address} ${WORDS[m.kind]} ${m.who}`}
    ></span>{/each}
  {#if !ruler.iface.uplink}
    <span
      role="slider"
      tabindex="0"
      class="end"
      aria-label={`length of ${ruler.iface.name}`}
      aria-valuemin={16}
      aria-valuemax={30}
      aria-valuenow={bits(stretched)}
      aria-valuetext={`/${bits(stretched)}`}
      data-testid={`end-${ruler.iface.name}`}
      onpointerdown={stretch}
      onkeydown={stretchByKey}
      onblur={() => (stretched = 0)}
    ></span>
  {/if}
  {#if stretched}<span class="said mono" role="status">/{bits(stretched)}</span>{/if}
  {#if moving}<span class="said mono" role="status">{at(moving.pool.first)} – {at(moving.pool.last)}</span
    >{/if}
</div>

<style>
  .ruler {
    position: relative;
    height: 26px;
    border: 1px solid var(--quiet);
    background: var(--color-base-100);
    touch-action: none;
  }
  .pool {
    position: absolute;
    top: 0;
    bottom: 0;
    border-inline: 1px solid var(--color-primary);
    background: repeating-linear-gradient(135deg, var(--color-accent) 0 4px, var(--color-base-100) 4px 7px);
  }
  .clash {
    position: absolute;
    inset-block: 0;
    background: repeating-linear-gradient(45deg, var(--color-error) 0 2px, transparent 2px 6px);
  }
  .handle {
    position: absolute;
    top: -3px;
    bottom: -3px;
    width: 9px;
    margin-left: -4.5px;
    border: 1px solid var(--color-primary);
    border-radius: 3px;
    background: var(--color-base-100);
    cursor: ew-resize;
    z-index: 2;
  }
  .end {
    position: absolute;
    inset-block: -3px;
    right: -5px;
    width: 10px;
    border: 2px solid var(--color-base-content);
    border-left-width: 1px;
    background: var(--color-base-100);
    cursor: ew-resize;
    z-index: 2;
  }
  .mark {
    position: absolute;
    z-index: 1;
    transform: translateX(-50%);
    background: var(--color-base-content);
  }
  .is-box {
    top: 0;
    bottom: 0;
    width: 3px;
  }
  .is-kept {
    top: 3px;
    width: 7px;
    height: 7px;
    border-radius: 50%;
    background: var(--color-base-100);
    border: 2px solid var(--color-base-content);
  }
  .is-fixed {
    bottom: 3px;
    width: 6px;
    height: 6px;
  }
  .is-leased {
    top: 10px;
    width: 3px;
    height: 6px;
  }
  .is-known {
    bottom: 0;
    width: 0;
    height: 0;
    border: 4px solid transparent;
    border-bottom-color: var(--color-base-content);
    background: none;
  }
  .said {
    position: absolute;
    inset-inline-end: 4px;
    top: 3px;
    padding: 0 4px;
    background: var(--color-base-content);
    color: var(--color-base-100);
    z-index: 3;
  }
</style>
