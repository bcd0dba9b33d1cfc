<script lang="ts">
  import { broadcastOf, formatIp, formatMac, formatPrefix, hostRange, isIpv4, networkOf } from '#core/addr';
  import { changeClauses, dropStatement, rename } from '#core/edits';
  import { isName, isReserved, allWords, written } from '#core/notation';
  import type { Statement, StatementOf } from '#core/notation';
  import { addressesOf, interfaceMac, poolSize, primaryOf, stationsOf } from '#core/site';
  import type { Interface, Station } from '#core/site';
  import { findingText, mendText } from '#words';
  import { useSession } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';
  import Addresses from './Addresses.svelte';
  import Cable from './Cable.svelte';
  import ClauseField from './ClauseField.svelte';
  import Jacks from './Jacks.svelte';
  import Logins from './Logins.svelte';
  import Several from './Several.svelte';
  import StatementField from './StatementField.svelte';

  const session = useSession();
  const subject = $derived(session.nav.selection[0] ?? '');
  const statement = $derived<Statement | undefined>(session.statementOf(subject));
  const iface = $derived(session.site.interfaces.find((i) => `interface/${i.name}` === subject));
  const findings = $derived(session.findings.filter((f) => f.subject === subject));
  const own = $derived(iface && primaryOf(iface, session.prospects));
  const addresses = $derived(iface?.addresses.filter((a) => isIpv4(a.prefix.address)) ?? []);
  const six = $derived(iface ? addressesOf(iface, session.prospects).filter((p) => !isIpv4(p.address)) : []);
  /** A station as the bench last saw it: its name and the lease it has. */
  const seatOf = (s: Station) => {
    const lease = session.derived?.draft.leases.find((l) => l.station === s.name);
    return `${s.supposed ? '~' : ''}${s.name}${lease ? ` ${lease.address}` : ''}`;
  };
  const stations = $derived(iface ? stationsOf(session.wiring, iface) : []);
  const around = $derived(
    session.site.statements.filter(
      (s) =>
        iface &&
        s.subject !== subject &&
        ['passage', 'leave', 'door', 'known'].includes(s.kind) &&
        allWords(s).some((w) => w.text === iface.name || w.text === iface.zone?.name),
    ),
  );
  const answers = $derived.by(() => {
    if (!iface) return '';
    const said = iface.answers.flatMap((a) =>
      a.services.map((s) => {
        const who = a.from
          ? a.from
              .map((w) =>
                w.type === 'name' ? w.name : w.type === 'addresses' ? formatIp(w.range.first) : w.type,
              )
              .join(', ')
          : 'anyone here';
        return `${s.name}${s.port === undefined ? '' : ` ${s.port}`}: ${a.from ? 'from ' : ''}${who}`;
      }),
    );
    return [...said, 'rest: nobody'].join(' · ');
  });
  const label = $derived(subject.replace('/', ' '));
  const set = (name: string, text: string) => {
    if (!statement) return;
    const op =
      text.trim() === ''
        ? ({ do: 'remove', name } as const)
        : ({ do: 'set', name, text: `${name} ${text.trim()}` } as const);
    session.apply(changeClauses(session.site, statement, [op]), `${label}: ${name}`);
  };
  const switchOver = (s: StatementOf<'interface'> | StatementOf<'port'>) =>
    session.apply(
      changeClauses(session.site, s, [s.off ? { do: 'remove', name: 'off' } : { do: 'add', text: 'off' }]),
      `${label}: ${s.off ? 'on' : 'off'}`,
    );
  let nameFault = $state('');
  /** Gives a zone or an interface another name, wherever it is named. */
  function renameTo(field: HTMLInputElement) {
    const [kind = '', from = ''] = subject.split('/');
    const to = field.value.trim();
    nameFault = '';
    if (to === from || (kind !== 'zone' && kind !== 'interface')) return;
    const taken = session.site.statements.some((s) => s.subject === `${kind}/${to}`);
    if (!isName(to) || isReserved(to))
      nameFault = 'up to 15 lower-case letters, digits and hyphens, a letter first';
    else if (taken) nameFault = `there is a ${kind} ${to} already`;
    else if (session.apply(rename(session.site, kind, from, to), `rename ${from} to ${to}`))
      session.nav.select(`${kind}/${to}`);
  }
  /** The clause that says what it is on: a port, a bridge, a session. */
  const carrierField = (i: Interface): [string, string][] => {
    const by = i.carrier ?? 'on';
    if (by === 'loopback') return [];
    return [[by, { on: 'port and tag', bridge: 'bridge', pppoe: 'session' }[by]]];
  };
  const fields = $derived(
    iface
      ? [
          ['zone', 'zone'],
          ...carrierField(iface),
          ['address', 'address'],
          ['also', 'also'],
          ['address6', 'IPv6'],
          ...(iface.uplink
            ? [
                ['gateway', 'gateway'],
                ['names', 'name servers'],
                ['watch', 'watch'],
              ]
            : [
                ['lends', 'lends'],
                ['table', 'table'],
              ]),
          ['answers', 'answers'],
          ['note', 'note'],
        ]
      : [],
  );
</script>

<aside class="panel slip" aria-label="slip" data-testid="slip">
  <div class="mb-2 flex items-baseline gap-2">
    {#if session.nav.selection.length > 1}<h2 class="h2">{session.nav.selection.length} selected</h2>
    {:else}
      <h2 class="h2">{subject.split('/').slice(1).join('/')}</h2>
      <span class="quiet">{subject.split('/')[0]}{statement ? ` · line ${statement.line}` : ''}</span>
    {/if}
    <button class="btn ms-auto px-2 btn-ghost btn-sm" aria-label="Close" onclick={() => session.nav.select()}
      >✕</button
    >
  </div>
  {#if session.nav.selection.length > 1}<Several />
  {:else if statement}
    <StatementField {statement} />
    {#each findings as f, n (n)}
      <div class={['mt-2 rounded p-2', `ground-${f.severity}`]}>
        <p><Weight severity={f.severity} /> <b>{findingText(f)}</b></p>
        {#if session.typing === subject}<p class="quiet">before this edit</p>{/if}
        {#each f.mends as mend, i (i)}
          <button
            class="link block text-start text-primary"
            data-testid={`slip-mend-${f.code}`}
            onclick={() => session.mend(f, i, mendText(mend))}>{mendText(mend)}</button
          >
        {/each}
      </div>
    {/each}
    {#if iface && own}
      <dl class="facts mt-3">
        <dt>network</dt>
        <dd class="mono">{formatPrefix(networkOf(own))}</dd>
        {#if isIpv4(own.address) && own.length < 31}
          <dt>hosts</dt>
          <dd class="mono">{formatIp(hostRange(own).first)}–{formatIp(hostRange(own).last)}</dd>
          <dt>broadcast</dt>
          <dd class="mono">{formatIp(broadcastOf(own))}</dd>
        {/if}
        {#each six as p (p.address)}
          <dt>IPv6</dt>
          <dd class="mono">{formatPrefix(p)}</dd>
        {/each}
        <dt>MAC</dt>
        <dd class="mono">{formatMac(interfaceMac(session.site, iface))}</dd>
        {#if poolSize(iface)}
          <dt>pool</dt>
          <dd>{poolSize(iface)} addresses, {stations.filter((s) => s.dhcp && !s.off).length} asked for</dd>
        {/if}
        <dt>answers</dt>
        <dd>{answers}</dd>
        {#if stations.length}
          <dt>here sit</dt>
          <dd>{stations.map(seatOf).join(', ')}</dd>
        {/if}
      </dl>
    {/if}
    {#if iface && addresses.length > 1}<Addresses {iface} />{/if}
    {#if statement.kind === 'switch'}<Jacks {statement} />{/if}
    {#if statement.kind === 'station' || statement.kind === 'circuit'}<Cable {statement} />{/if}
    {#if statement.kind === 'box' || statement.kind === 'zone'}<Logins {statement} />{/if}
    {#if fields.length}
      <h3 class="mt-4 mb-1 font-semibold">Clauses</h3>
      <div class="grid grid-cols-[6.5rem_1fr] items-center gap-x-2 gap-y-1">
        <label for="slip-name" class="quiet">name</label>
        <div>
          <input
            id="slip-name"
            class="field mono text-[12px]"
            data-testid="slip-name"
            spellcheck="false"
            value={subject.split('/')[1]}
            aria-invalid={nameFault !== ''}
            onchange={(e) => renameTo(e.currentTarget)}
          />
          {#if nameFault}<p class="text-error">{nameFault}</p>{/if}
        </div>
        {#each fields as [name, what] (name)}
          <ClauseField {statement} name={name!} label={what!} onset={(text) => set(name!, text)} />
        {/each}
      </div>
    {/if}
    {#if around.length}
      <h3 class="mt-4 mb-1 font-semibold">Spoken of by</h3>
      <ul>
        {#each around as s (s.subject)}
          <li>
            <button
              class="mono link text-start text-[12px] link-hover"
              onclick={() => session.nav.select(s.subject)}
              >{s.kind}
              {written(s)
                .header.map((t) => t.text)
                .join(' ')} <span class="quiet">line {s.line}</span></button
            >
          </li>
        {/each}
      </ul>
    {/if}
    <div class="mt-4 flex gap-2">
      {#if statement.kind === 'interface' || statement.kind === 'port'}
        <button class="btn btn-sm" data-testid="switch" onclick={() => switchOver(statement)}
          >{statement.off ? 'Switch on' : 'Switch off'}</button
        >
      {/if}
      <button
        class="btn btn-sm"
        data-testid="to-text"
        onclick={() => {
          session.nav.show(statement);
        }}>Show in the text</button
      >
      <button
        class="btn btn-sm"
        data-testid="remove"
        onclick={() => {
          if (session.apply(dropStatement(session.site, statement), `remove ${label}`)) session.nav.select();
        }}>Remove</button
      >
    </div>
  {:else}
    <p class="quiet">No longer in the draft. Undo brings it back.</p>
  {/if}
</aside>

<style>
  .slip {
    position: relative;
    width: 340px;
    flex: none;
    overflow: auto;
    padding: 12px;
    border-width: 0 0 0 1px;
    border-radius: 0;
  }
  .facts {
    display: grid;
    grid-template-columns: 6.5rem 1fr;
    row-gap: 4px;
  }
  .facts dt {
    color: var(--quiet);
  }
  .facts dd {
    overflow-wrap: anywhere;
  }
</style>
