<script lang="ts">
  import type { Met, PortSight } from '#core/box';
  import { rename } from '#core/edits';
  import { useSession } from '../../session/index';
  // A live box: which, whether its key is the one at its console, and what of it becomes of this site.
  let { onclose }: { onclose: () => void } = $props();
  const session = useSession();
  let dialog = $state<HTMLDialogElement>();
  $effect(() => dialog?.showModal());
  const live = $derived(session.live);
  let busy = $state('asking the server …');
  let chosen = $state('');
  let met = $state.raw<Met | undefined>();
  let trouble = $state('');
  $effect(() => {
    void session.openLive().then(() => (busy = ''));
  });
  async function meet(box: string, accept?: string) {
    chosen = box;
    trouble = '';
    busy = 'calling the box …';
    met = await live?.meet(box, accept);
    busy = '';
  }
  /** Devices that could be ports, and ports of the draft that the box does not have. */
  const devices = $derived<readonly PortSight[]>(
    (met?.met ? met.sight.ports : []).filter((p) => !p.name.includes('@')),
  );
  const missing = $derived([...session.site.ports.keys()].filter((p) => !devices.some((d) => d.name === p)));
  /** By a port of the draft: the device that it is. */
  let matched = $state.raw<Readonly<Record<string, string>>>({});
  const byMac = (port: string) => {
    const mac = session.site.ports.get(port)?.mac;
    return mac === undefined
      ? undefined
      : devices.find((d) => Number.parseInt(d.mac.replaceAll(':', ''), 16) === Number(mac))?.name;
  };
  const deviceFor = (port: string) => matched[port] ?? byMac(port) ?? '';
  const free = $derived(
    devices.filter((d) => !session.site.ports.has(d.name) && !missing.some((p) => deviceFor(p) === d.name)),
  );
  function take() {
    for (const port of missing) {
      const device = deviceFor(port);
      if (device !== '' && !session.apply(rename(session.site, 'port', port, device), `${port} is ${device}`))
        return;
    }
    trouble = session.connectLive(chosen) ?? '';
    if (!trouble) dialog?.close();
  }
  /** A new site that begins with nothing but the box's ports, to be led through. */
  function asFirstLight() {
    const ports = devices.map((d) => `port ${d.name}:\n`).join('');
    session.begin(
      chosen,
      [
        { name: 'box.gate', text: `box edge:\n${ports}` },
        { name: 'wiring.gate', text: '' },
      ],
      { firstLight: true, factory: true },
    );
    trouble = session.connectLive(chosen) ?? '';
    if (!trouble) dialog?.close();
  }
  function asNew() {
    if (!met?.met) return;
    session.begin(chosen, [
      { name: 'box.gate', text: met.text || 'box edge:\n' },
      { name: 'wiring.gate', text: met.seat ?? '' },
    ]);
    trouble = session.connectLive(chosen) ?? '';
    if (!trouble) dialog?.close();
  }
</script>

<dialog
  bind:this={dialog}
  class="m-auto w-[38rem] max-w-[94vw] panel p-4 text-base-content shadow-xl"
  aria-labelledby="connect-head"
  data-testid="connect"
  {onclose}
>
  <h2 class="mb-2 h2" id="connect-head">Connect to a box</h2>
  {#if live?.trouble}
    <p class="mb-2 ground-error rounded p-2" role="alert" data-testid="connect-trouble">■ {live.trouble}.</p>
  {/if}
  {#if live?.list}
    {#if !live.list.boxes.length}
      <p class="mb-2">
        The server knows no live box. Write a list of them and start it with
        <span class="mono">--boxes FILE</span>; docs/live.md has an example.
      </p>
    {/if}
    <ul class="mb-3 space-y-1">
      {#each live.list.boxes as b (b.name)}
        <li>
          <button
            class="btn w-full justify-start gap-3 font-normal btn-sm"
            aria-pressed={chosen === b.name}
            data-testid="connect-{b.name}"
            disabled={busy !== ''}
            onclick={() => meet(b.name)}
          >
            <b>{b.name}</b> <span class="mono">{b.target}</span>
            {#if b.practice}<span class="quiet">made by the demo on this machine, to practise with</span>{/if}
          </button>
        </li>
      {/each}
    </ul>
    {#if live.list.noPractice}
      <p class="mb-2 quiet" data-testid="no-practice">
        There is no practice box here: {live.list.noPractice}. It takes Linux, root, and what
        <span class="mono">npm run verify</span> installs.
      </p>
    {/if}
  {/if}
  {#if busy}<p class="quiet" role="status">{busy}</p>{/if}
  {#if met && !met.met}
    {#if 'keys' in met}
      <p class="mb-1">
        <b>{chosen}</b> was never met from here. Its host keys; compare them with what its console prints (<span
          class="mono">ssh-keygen -lf</span
        >):
      </p>
      {#each met.keys as key (key.fingerprint)}
        <p class="mb-2 flex items-center gap-2">
          <span class="mono text-[12.5px] break-all">{key.kind} {key.fingerprint}</span>
          <button
            class="btn ms-auto btn-primary btn-sm"
            data-testid="accept-key"
            onclick={() => meet(chosen, key.fingerprint)}>It is the same</button
          >
        </p>
      {/each}
    {:else}
      <p class="ground-error rounded p-2" role="alert" data-testid="not-met">■ {chosen}: {met.why}.</p>
    {/if}
  {/if}
  {#if met?.met}
    {@const { box } = met.sight}
    <p class="mb-2" data-testid="met">
      Linux {box.kernel}; {box.running === 'none' ? 'nothing of ours runs on it' : `it runs ${box.running}`}.
    </p>
    <table class="mb-2 w-full text-start" data-testid="devices">
      <thead
        ><tr class="quiet"
          ><th class="text-start">port</th><th class="text-start">cable</th><th class="text-start">MAC</th><th
            class="text-start">addresses</th
          ></tr
        ></thead
      >
      <tbody>
        {#each devices as d (d.name)}
          <tr
            ><td class="font-semibold">{d.name}</td><td
              >{d.carrier ? '● up' : d.up ? '○ no cable' : '○ off'}</td
            ><td class="mono text-[12.5px]">{d.mac}</td><td class="mono text-[12.5px]"
              >{d.addresses.join(' ')}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    {#if met.left.length}
      <details class="mb-2">
        <summary>{met.left.length} things of it cannot be taken</summary>
        {#each met.left as l, n (n)}<p class="text-[12.5px]">{l}</p>{/each}
      </details>
    {/if}
    {#if missing.length}
      <p class="mb-1">Ports of this site that the box does not have, and which they are:</p>
      {#each missing as port (port)}
        <label class="mb-1 flex items-center gap-2"
          ><b class="w-16">{port}</b> is
          <select
            class="select w-auto select-xs"
            data-testid="match-{port}"
            value={deviceFor(port)}
            onchange={(e) => (matched = { ...matched, [port]: e.currentTarget.value })}
          >
            <option value="">not there</option>
            {#if deviceFor(port)}<option value={deviceFor(port)}>{deviceFor(port)}</option>{/if}
            {#each free as d (d.name)}<option value={d.name}>{d.name} {d.mac}</option>{/each}
          </select></label
        >
      {/each}
    {/if}
    <div class="mt-3 flex flex-wrap gap-2">
      <button class="btn btn-primary btn-sm" data-testid="take-live" onclick={take}
        >It is the box of {session.name}</button
      >
      <button class="btn btn-sm" data-testid="new-live" onclick={asNew}>A new site of what it is</button>
      {#if box.running === 'none'}
        <button class="btn btn-sm" data-testid="first-light-live" onclick={asFirstLight}
          >First light: from its ports on</button
        >
      {/if}
    </div>
    <p class="mt-1 quiet">Nothing on the box is changed by either.</p>
  {/if}
  {#if trouble}<p class="mt-1 text-error" role="alert">{trouble}</p>{/if}
  <div class="mt-3 flex">
    <button type="button" class="btn ms-auto btn-ghost btn-sm" onclick={() => dialog?.close()}>Close</button>
  </div>
</dialog>
