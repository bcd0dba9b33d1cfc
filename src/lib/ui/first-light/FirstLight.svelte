<script lang="ts">
  import { formatPrefix, isIpv4, networkOf, parsePrefix } from '#core/addr';
  import type { Ipv4, Prefix } from '#core/addr';
  import { changeClauses, plugIn, writeInside, writeUplink } from '#core/edits';
  import type { Written } from '#core/edits';
  import { lineTerms, readHandoff } from '#core/formats/handoff';
  import { isName, isReserved, maskSecrets } from '#core/notation';
  import { nextFreeSubnet } from '#core/model';
  import { MISSING_TEXTS, REFUSALS, contradictionText, ledgerOf } from '#words';
  import { useSession } from '../../session/index';
  import Trial from '../trial/Trial.svelte';
  import {
    deskGroups,
    desksSentence,
    firstFail,
    ladderName,
    ladderSentence,
    standingOf,
  } from '../ladder/ladders';
  import Ladder from '../ladder/Ladder.svelte';

  const session = useSession();
  const steps = [
    'Meet the box',
    'Which port is which',
    'The provider’s sheet',
    'First inside network',
    'Prove',
    'Apply on trial',
  ];
  const site = $derived(session.site);
  const uplink = $derived(site.interfaces.find((i) => i.uplink));
  const inside = $derived(site.interfaces.find((i) => !i.uplink && i.addresses.length > 0));
  const plugged = $derived(
    site.circuits.some((c) => c.name === 'line') && site.stations.some((s) => s.name === 'laptop'),
  );
  const errors = $derived(session.findings.filter((f) => f.severity === 'error'));
  const done = $derived([
    session.box.passwordSet,
    plugged,
    !!uplink,
    !!inside,
    errors.length === 0 &&
      !!session.derived &&
      session.derived.draft.desks.some((d) =>
        d.stages.some((s) => s.stage === 'page' && s.result === 'pass'),
      ),
    session.saved && session.changes.length === 0 && session.box.history.length > 0,
  ]);
  let step = $state(0);
  $effect(() => {
    // On opening, begin where the work stands.
    if (session.ready && step === 0 && session.box.passwordSet)
      step = Math.max(0, [...done, false].indexOf(false));
  });

  let boxName = $state('edge');
  let password = $state('');
  let again = $state('');
  const passwordFault = $derived(
    password === ''
      ? ''
      : password.length < 10
        ? 'at least ten characters'
        : again !== '' && password !== again
          ? 'the two differ'
          : '',
  );
  function meet() {
    const { box } = site;
    if (box && box.name !== boxName && isName(boxName) && !isReserved(boxName))
      session.apply(
        changeClauses(site, box, [{ do: 'rename', from: box.name, to: boxName }]),
        'name the box',
      );
    session.tell({ do: 'set-password' });
    password = again = '';
    step = 1;
  }

  let linePort = $state('p1');
  let deskPort = $state('p2');
  const ports = $derived([...site.ports.keys()]);
  const plugs = $derived(plugIn(site, linePort, deskPort));
  const whatIsIn = (port: string) => [
    ...site.circuits
      .filter((c) => c.plug?.to === 'port' && c.plug.port === port)
      .map((c) => `the provider’s ${c.name}`),
    ...site.stations
      .filter((s) => s.plug?.to === 'port' && s.plug.port === port)
      .map((s) => `your ${s.name}`),
  ];

  const read = $derived(
    readHandoff(session.sheet, {
      name: 'line',
      port: linePort,
      zone: site.zones.find((z) => z.upstream)?.name ?? 'world',
    }),
  );
  const ledger = $derived(ledgerOf(read.found));
  let ticked = $state<readonly string[]>([]);
  const empty = $derived(session.sheet.trim() === '');
  const uplinkWritten = $derived(
    writeUplink(site, `${read.statement}, answers ping, guard`, 'line', lineTerms(read.found)),
  );

  let insideName = $state('office');
  let subnetText = $state('');
  const offered = $derived(nextFreeSubnet(session.model));
  const net = $derived.by((): Prefix<Ipv4> | undefined => {
    if (subnetText.trim() === '') return offered;
    const prefix = parsePrefix(subnetText.trim());
    return prefix && isIpv4(prefix.address) && prefix.length >= 8 && prefix.length <= 29
      ? (networkOf(prefix) as Prefix<Ipv4>)
      : undefined;
  });
  const nameFault = $derived(
    !isName(insideName) || isReserved(insideName)
      ? 'up to 15 lower-case letters, digits and hyphens, a letter first'
      : '',
  );
  const insideWritten = $derived(
    net && !nameFault ? writeInside(site, insideName, deskPort, net) : undefined,
  );

  function write(written: Written, label: string, next: number) {
    if (session.apply(written.changes, label)) step = next;
  }
  const proof = $derived(session.derived?.draft);
  let seconds = $state(120);
  let refused = $state('');
  function tryIt() {
    const no = session.tryDraft(seconds, 'First light', errors.length);
    refused = no ? REFUSALS[no] : '';
  }
  function finish() {
    session.tell({ do: 'save' });
    session.firstLight = false;
    session.nav.view = 'board';
    void session.save();
  }
</script>

{#snippet statements(list: readonly string[], word = 'This will be written')}
  <aside class="w-full rounded border border-base-300 bg-base-200 p-3" aria-label={word}>
    <p class="mb-1 quiet">{word}</p>
    <pre class="mono text-[12.5px] leading-[19px] whitespace-pre-wrap">{maskSecrets(list.join('\n'))}</pre>
  </aside>
{/snippet}

<div class="mx-auto grid max-w-[1120px] grid-cols-[220px_1fr] gap-6 p-6" data-testid="first-light">
  <ol class="space-y-1" aria-label="steps">
    {#each steps as name, i (name)}
      <li>
        <button
          class={[
            'flex w-full items-center gap-2 rounded px-2 py-1.5 text-start',
            step === i && 'bg-accent font-semibold text-accent-content',
          ]}
          aria-current={step === i ? 'step' : undefined}
          onclick={() => (step = i)}
        >
          <span class="mono w-5 text-center" aria-hidden="true">{done[i] ? '✓' : i + 1}</span>{name}
          {#if done[i]}<span class="sr-only">done</span>{/if}
        </button>
      </li>
    {/each}
  </ol>
  <section class="panel space-y-4 p-5" aria-label={steps[step]}>
    <h1 class="text-xl font-semibold">{steps[step]}</h1>
    {#if step === 0}
      <p>
        The box is fresh from its carton: nothing is configured, nothing passes, and everybody knows its
        password. So that comes first.
      </p>
      <form
        class="grid max-w-md gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          if (password && password === again && !passwordFault) meet();
        }}
      >
        <label
          >its name <input
            class="field mono"
            bind:value={boxName}
            aria-invalid={!isName(boxName)}
            data-testid="box-name"
          /></label
        >
        <label
          >new password <input
            class="field"
            type="password"
            autocomplete="new-password"
            bind:value={password}
            aria-invalid={passwordFault !== ''}
            data-testid="password"
          /></label
        >
        <label
          >once more <input
            class="field"
            type="password"
            autocomplete="new-password"
            bind:value={again}
            data-testid="password-again"
          /></label
        >
        {#if passwordFault}<p class="text-error">{passwordFault}</p>{/if}
        <button
          class="btn w-fit btn-primary btn-sm"
          disabled={!password || password !== again || passwordFault !== '' || !isName(boxName)}
          data-testid="meet">Set it</button
        >
        <p class="quiet">
          The bench box remembers only that it was changed; the password itself is kept nowhere.
        </p>
      </form>
    {:else if step === 1}
      <p>Plug the provider’s line and your PC in, one after the other, and watch which lamp comes up.</p>
      <ul class="flex gap-2" aria-label="ports">
        {#each ports as port (port)}
          <li class="panel w-36 p-2">
            <b class="mono">{whatIsIn(port).length ? '■' : '□'} {port}</b>
            <span class="block quiet">{whatIsIn(port).join(', ') || 'no light'}</span>
          </li>
        {/each}
      </ul>
      <div class="flex gap-4">
        <label
          >provider’s line into <select class="field" bind:value={linePort} data-testid="line-port"
            >{#each ports as p (p)}<option>{p}</option>{/each}</select
          ></label
        >
        <label
          >your PC into <select class="field" bind:value={deskPort} data-testid="desk-port"
            >{#each ports as p (p)}<option>{p}</option>{/each}</select
          ></label
        >
      </div>
      {#if linePort === deskPort}<p class="text-error">One port takes one cable: choose two.</p>{/if}
      {@render statements(plugs.statements)}
      <div class="flex gap-2">
        <button
          class="btn btn-primary btn-sm"
          disabled={linePort === deskPort}
          data-testid="plug"
          onclick={() => write(plugs, 'plug in', 1)}>Plug in</button
        >
        {#if plugged}<button class="btn btn-sm" data-testid="next" onclick={() => (step = 2)}
            >Both lamps are up: on</button
          >{/if}
      </div>
    {:else if step === 2}
      <p>
        Paste what the provider sent: the mail, the table, or just a line such as <span class="mono"
          >198.51.100.18/29 gw .17 dns 192.0.2.53</span
        >. It stays with the site.
      </p>
      <textarea
        class="field mono text-[12.5px]"
        rows="6"
        spellcheck="false"
        bind:value={session.sheet}
        onblur={() => void session.save()}
        data-testid="sheet"
        aria-label="The provider’s sheet"></textarea>
      {#if !empty}
        <div class="grid grid-cols-2 gap-4">
          <div>
            <p class="mb-1 quiet">Read back, to tick off against the paper</p>
            <ul>
              {#each ledger as row (row.label)}
                <li>
                  <label class="flex items-baseline gap-2 py-0.5">
                    <input
                      type="checkbox"
                      class="checkbox checkbox-xs"
                      checked={ticked.includes(row.label + row.value)}
                      onchange={(e) =>
                        (ticked = e.currentTarget.checked
                          ? [...ticked, row.label + row.value]
                          : ticked.filter((t) => t !== row.label + row.value))}
                    />
                    <span class="w-24 quiet">{row.label}</span><b class="mono font-medium">{row.value}</b>
                  </label>
                </li>
              {/each}
            </ul>
            {#each read.missing as m (m)}<p class="text-warning">▲ {MISSING_TEXTS[m] ?? m}</p>{/each}
            {#each read.contradictions as c, i (i)}<p class="text-error">■ {contradictionText(c)}</p>{/each}
          </div>
          {@render statements(uplinkWritten.statements)}
        </div>
        <button
          class="btn btn-primary btn-sm"
          data-testid="write-uplink"
          disabled={read.contradictions.length > 0}
          onclick={() => write(uplinkWritten, 'the provider’s sheet', 3)}>Write it</button
        >
        {#if read.contradictions.length}<p class="quiet">
            Ask the provider, and put above what holds: what contradicts itself is not written.
          </p>{/if}
      {/if}
    {:else if step === 3}
      <p>
        One set: its addresses, its pool, names by the box, what it answers, what may pass, and what it shows
        outside.
      </p>
      <div class="flex gap-4">
        <label
          >name <input
            class="field mono"
            bind:value={insideName}
            aria-invalid={nameFault !== ''}
            data-testid="inside-name"
          /></label
        >
        <label
          >subnet <input
            class="field mono"
            bind:value={subnetText}
            placeholder={offered ? formatPrefix(offered) : ''}
            aria-invalid={!net}
            data-testid="inside-net"
          /></label
        >
        <label
          >port <select class="field" bind:value={deskPort}
            >{#each ports as p (p)}<option>{p}</option>{/each}</select
          ></label
        >
      </div>
      {#if nameFault}<p class="text-error">{nameFault}</p>{/if}
      {#if !net}<p class="text-error">
          a network such as {offered ? formatPrefix(offered) : '10.61.20.0/24'}, from /8 to /29
        </p>{/if}
      {#if offered && subnetText.trim() === ''}<p class="quiet">
          {formatPrefix(offered)} is the next free one; the uplink has none of it.
        </p>{/if}
      {#if insideWritten}
        {@render statements(insideWritten.statements)}
        <button
          class="btn btn-primary btn-sm"
          data-testid="write-inside"
          onclick={() => insideWritten && write(insideWritten, 'the first inside network', 4)}
          >Write it</button
        >
      {/if}
    {:else if step === 4}
      <p>Nothing is applied yet. This is what the bench says would happen.</p>
      {#if proof?.uplinks.some((u) => u.onSheet)}
        <p data-testid="sheet-only">
          <b>Proved against your sheet only:</b> the provider on the bench does what the sheet says, because the
          sheet is all that is known of it. Whether the real line does so, the box finds out.
        </p>
      {/if}
      {#if proof}
        {#each proof.uplinks as u (u.interface + u.family)}
          <Ladder title={ladderName(u)} about={standingOf(u)} stages={u.stages} supposed={u.supposed} />
        {/each}
        <p
          class={deskGroups(proof).some((g) => g.fail) ? 'font-semibold text-error' : 'font-semibold'}
          data-testid="desks-say"
        >
          {desksSentence(deskGroups(proof))}
        </p>
        {#each proof.desks as d (d.station)}
          <Ladder title={`desk ${d.station}`} stages={d.stages} supposed={d.supposed} />
        {/each}
      {/if}
      {#if errors.length}<p class="text-error">
          ■ {errors.length} findings stand in the way;
          <button class="link" onclick={() => (session.nav.drawer = true)}>look</button>
        </p>{/if}
      <button class="btn btn-primary btn-sm" data-testid="to-trial" onclick={() => (step = 5)}
        >On to the trial</button
      >
    {:else}
      {#if session.box.trial}
        <Trial />
      {:else if session.changes.length}
        <p>
          The box takes the draft and goes back by itself after {seconds} seconds, unless you stay with it.
        </p>
        <label class="block w-32"
          >seconds <input type="number" class="field" min="5" max="3600" bind:value={seconds} /></label
        >
        <button
          class="btn btn-primary btn-sm"
          data-testid="try"
          disabled={errors.length > 0 || !session.isLookedAt}
          onclick={tryIt}>Try it</button
        >
        {#if refused}<p class="text-error">{refused}</p>{/if}
        {#if session.box.last}<p class="quiet">It went back by itself.</p>{/if}
      {:else if session.box.history.length}
        <p>
          The box runs what you wrote{proof?.uplinks[0] && !firstFail(proof.uplinks[0].stages)
            ? `, ${ladderSentence(proof.uplinks[0].stages)}`
            : ''}. Save it, and a reboot starts the same.
        </p>
        <button class="btn btn-primary btn-sm" data-testid="save-finish" onclick={finish}
          >Save to start-up and open the board</button
        >
      {:else}
        <p class="quiet">Nothing is written yet: the steps before come first.</p>
      {/if}
    {/if}
  </section>
</div>
