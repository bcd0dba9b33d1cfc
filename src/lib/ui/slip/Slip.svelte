<script lang="ts">
  import { broadcastOf, formatIp, formatMac, formatPrefix, hostRange, isIpv4, networkOf } from '#core/addr';
  import { FORMS, changeClauses, dropStatement, nameFault, rename, rowsOf } from '#core/edits';
  import { NAMED_KINDS, allWords, written } from '#core/notation';
  import type { Group } from '#core/edits';
  import type { Statement, StatementOf } from '#core/notation';
  import { addressesOf, interfaceMac, poolSize, primaryOf, stationsOf } from '#core/site';
  import { GESTURE_LABELS, KIND_LABELS, fieldLabel, findingText, makingFaultText, mendText } from '#words';
  import { useSession } from '../../session/index';
  import Weight from '../primitives/Weight.svelte';
  import Addresses from './Addresses.svelte';
  import Cable from './Cable.svelte';
  import { wantsAt } from '../making/wants';
  import FieldControl from './FieldControl.svelte';
  import Ledger from './Ledger.svelte';
  import Jacks from './Jacks.svelte';
  import Legs from './Legs.svelte';
  import Leases from './Leases.svelte';
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
  const switchOver = (s: StatementOf<'interface'> | StatementOf<'port'>) =>
    session.apply(
      changeClauses(session.site, s, [s.off ? { do: 'remove', name: 'off' } : { do: 'add', text: 'off' }]),
      `${label}: ${s.off ? 'on' : 'off'}`,
    );
  const name = $derived(subject.slice(subject.indexOf('/') + 1));
  let nameDraft = $state<string | undefined>();
  let typedFault = $state('');
  $effect(() => {
    // Another thing is shown: what was typed at the last one is none of its name.
    void subject;
    nameDraft = undefined;
    typedFault = '';
  });
  /** Gives a thing another name, wherever it is named. */
  function renameNow() {
    const to = (nameDraft ?? name).trim();
    typedFault = '';
    if (!statement || nameDraft === undefined || to === name) {
      nameDraft = undefined;
      return;
    }
    const { kind } = statement;
    const fault = nameFault(session.site, kind, to);
    if (fault) typedFault = makingFaultText(fault);
    else if (session.apply(rename(session.site, kind, name, to), `rename ${name} to ${to}`)) {
      nameDraft = undefined;
      session.nav.select(`${kind}/${to}`);
    }
  }
  /** What the field does that the keyboard or the pointer is at. */
  let about = $state('');
  const aboutOf = (target: EventTarget | null): string =>
    (target instanceof Element && target.closest<HTMLElement>('[data-about]')?.dataset.about) || '';
  const fields = $derived(statement ? FORMS[statement.kind] : []);
  /** What is for everybody, and what the thing is: an uplink, a network behind the box. */
  const fits = (g: Group | undefined) =>
    g === undefined || (iface && g === (iface.uplink ? 'uplink' : 'inside'));
  const plain = $derived(fields.filter((f) => fits(f.group)));
  const GROUPS: readonly (readonly [Group, string])[] = [
    ['inside', 'As a network behind the box'],
    ['uplink', 'As an uplink'],
    ['ipv6', 'IPv6'],
    ['rare', 'Seldom wanted'],
  ];
  const folded = $derived(
    GROUPS.flatMap(([group, says]) => {
      const own = fields.filter((f) => f.group === group && !fits(group));
      return own.length
        ? [{ group, says, own, said: own.some((f) => statement && rowsOf(statement, f).length > 0) }]
        : [];
    }),
  );
  const wants = $derived(statement ? wantsAt(session.site, subject) : []);
  const isNamed = $derived(!!statement && NAMED_KINDS.has(statement.kind));
</script>

<aside
  class="panel slip"
  aria-label="slip"
  data-testid="slip"
  onfocusin={(e) => (about = aboutOf(e.target))}
  onmouseover={(e) => (about = aboutOf(e.target) || about)}
>
  <div class="body">
    <div class="mb-2 flex items-baseline gap-2">
      {#if session.nav.selection.length > 1}<h2 class="h2">{session.nav.selection.length} selected</h2>
      {:else}
        <h2 class="h2">{subject.split('/').slice(1).join('/')}</h2>
        <span class="quiet"
          >{statement && KIND_LABELS[statement.kind] !== statement.kind
            ? `${KIND_LABELS[statement.kind]} · `
            : ''}<span class="mono">{subject.split('/')[0]}</span>{statement
            ? ` · line ${statement.line}`
            : ''}</span
        >
      {/if}
      <button
        class="btn ms-auto px-2 btn-ghost btn-sm"
        aria-label="Close"
        onclick={() => session.nav.select()}>✕</button
      >
    </div>
    {#if session.nav.selection.length > 1}<Several />
    {:else if statement}
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
      {#if wants.length}
        <div class="mt-2 flex flex-wrap gap-1" aria-label="what could be wanted here" role="group">
          {#each wants as want (want.id)}
            <button
              class="btn h-6 min-h-0 px-2 btn-xs"
              title={GESTURE_LABELS[want.id].about}
              data-testid={`slip-want-${want.id}`}
              onclick={() => session.nav.make(want.id, want.place)}>{GESTURE_LABELS[want.id].says}</button
            >
          {/each}
        </div>
      {/if}
      {#key `${statement.kind} ${session.id}`}
        <div
          class="mt-3 grid grid-cols-[7rem_minmax(0,1fr)] items-start gap-x-2 gap-y-1.5"
          data-testid="fields"
        >
          {#if isNamed}
            <label for="slip-name" class="pt-1">name</label>
            <div>
              <input
                id="slip-name"
                class="field mono text-[12px]"
                data-testid="slip-name"
                spellcheck="false"
                autocomplete="off"
                value={nameDraft ?? name}
                aria-invalid={typedFault !== ''}
                oninput={(e) => (nameDraft = e.currentTarget.value)}
                onblur={renameNow}
                onkeydown={(e) => {
                  if (e.key === 'Enter') renameNow();
                  else if (e.key === 'Escape' && nameDraft !== undefined) {
                    e.stopPropagation();
                    nameDraft = undefined;
                    typedFault = '';
                  }
                }}
              />
              {#if typedFault}<p class="text-error" role="alert">{typedFault}</p>{/if}
            </div>
          {/if}
          {#each plain as field (field.key)}
            {#key subject}<FieldControl {statement} {field} />{/key}
          {/each}
          {#each folded as { group, says, own, said } (group)}
            <details class="col-span-2" open={said}>
              <summary class="cursor-pointer"
                >{says}<span class="quiet"
                  >: {own.map((f) => fieldLabel(statement.kind, f).says).join(', ')}</span
                ></summary
              >
              <div class="mt-1 grid grid-cols-[7rem_minmax(0,1fr)] items-start gap-x-2 gap-y-1.5">
                {#each own as field (field.key)}
                  {#key subject}<FieldControl {statement} {field} />{/key}
                {/each}
              </div>
            </details>
          {/each}
        </div>
      {/key}
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
        </dl>
      {/if}
      {#if iface && addresses.length > 1}<Addresses {iface} />{/if}
      {#if iface?.uplink}<Ledger {iface} />{/if}
      {#if iface && !iface.uplink && stations.length}<Leases {iface} />{/if}
      {#if statement.kind === 'switch'}<Jacks {statement} />{/if}
      {#if statement.kind === 'router'}<Legs {statement} />{/if}
      {#if statement.kind === 'station' || statement.kind === 'circuit'}<Cable {statement} />{/if}
      {#if statement.kind === 'box' || statement.kind === 'zone'}<Logins {statement} />{/if}
      <h3 class="mt-4 mb-1 font-semibold">The statement itself</h3>
      <StatementField {statement} />
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
            if (session.apply(dropStatement(session.site, statement), `remove ${label}`))
              session.nav.select();
          }}>Remove</button
        >
      </div>
    {:else}
      <p class="quiet">No longer in the draft. Undo brings it back.</p>
    {/if}
  </div>
  <!-- What the field at hand does, at the foot: it explains itself on focus as on hover, and moves nothing. -->
  <p class="about" data-testid="about">{about}</p>
</aside>

<style>
  .about {
    flex: none;
    height: 42px;
    padding: 4px 12px;
    overflow: hidden;
    border-top: 1px solid var(--color-base-300);
    background: var(--color-base-200);
    color: var(--quiet);
    font-size: 12px;
    line-height: 16px;
  }
  .slip {
    position: relative;
    display: flex;
    flex-direction: column;
    width: min(360px, 46vw);
    flex: none;
    min-height: 0;
    border-width: 0 0 0 1px;
    border-radius: 0;
  }
  .body {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 12px;
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
