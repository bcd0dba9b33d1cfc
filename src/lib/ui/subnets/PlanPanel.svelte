<script lang="ts">
  import { onMount } from 'svelte';
  import { formatIp, formatMac, formatPrefix, formatRange } from '#core/addr';
  import { takePlan, takeReservations } from '#core/edits';
  import {
    PLAN_COLUMNS,
    bareHead,
    planCsv,
    planMarkdown,
    readPlan,
    reservationsCsv,
  } from '#core/formats/address-plan';
  import type { Columns, PlanColumn } from '#core/formats/address-plan';
  import { comparePlan, compareReservations, plannedIn } from '#core/model';
  import type { PlanField } from '#core/model';
  import type { Interface } from '#core/site';
  import { planFaultText } from '#words';
  import { remembered, useSession } from '../../session/index';
  import { saveFile } from '../save';
  // An address plan beside the draft: read, compared row by row, taken over by row or all; and the site's own, out.
  let { onclose }: { onclose: () => void } = $props();
  const session = useSession();
  const EXAMPLE = 'name;VLAN;subnet;gateway;pool;zone\nstudio;20;10.61.20.0/24;10.61.20.1;50-199;studio';
  let text = $state('');
  let name = $state('');
  let chosen = $state.raw<Columns>({});
  const KEY = 'jolly-gate plan columns';
  const COLUMN_WORDS: Readonly<Record<PlanColumn, string>> = {
    name: 'name',
    tag: 'VLAN tag',
    subnet: 'subnet',
    mask: 'mask',
    gateway: 'gateway (the box)',
    pool: 'DHCP pool',
    'pool-start': 'pool, first',
    'pool-end': 'pool, last',
    zone: 'zone',
    note: 'note',
    mac: 'MAC address',
    address: 'reserved address',
    host: 'device',
  };

  onMount(() => {
    const given = session.nav.plan;
    if (given) take(given.text, given.name);
  });
  $effect(() => {
    const given = session.nav.plan;
    if (given && given.text !== text) take(given.text, given.name);
  });
  function take(given: string, from: string) {
    text = given;
    name = from;
    chosen = {};
    const heads = signature(readPlan(given).heads);
    const kept = recall()[heads];
    if (kept) chosen = kept;
  }
  const signature = (heads: readonly string[]): string => heads.map(bareHead).join('|');
  function recall(): Record<string, Columns> {
    try {
      return JSON.parse(remembered.get(KEY) ?? '{}') as Record<string, Columns>;
    } catch {
      return {};
    }
  }
  function choose(column: number, what: string) {
    const next: Partial<Record<PlanColumn, number>> = { ...chosen };
    for (const c of PLAN_COLUMNS) if (plan && plan.columns[c] === column) next[c] = -1;
    for (const [c, at] of Object.entries(next)) if (at === column) delete next[c as PlanColumn];
    if (what) next[what as PlanColumn] = column;
    chosen = next;
    if (plan) remembered.set(KEY, JSON.stringify({ ...recall(), [signature(plan.heads)]: next }));
  }

  const plan = $derived(text.trim() ? readPlan(text, chosen) : undefined);
  const isDevices = $derived(!!plan && plan.columns.mac !== undefined);
  const good = $derived(plan?.networks.filter((r) => !r.faults.length) ?? []);
  const compared = $derived(
    comparePlan(
      session.site,
      good.map((r) => r.value),
    ),
  );
  const goodDevices = $derived(
    (plan?.reservations ?? []).flatMap((r) =>
      !r.faults.length && r.value.mac !== undefined && r.value.address !== undefined
        ? [{ row: r, value: { mac: r.value.mac, address: r.value.address, label: r.value.label } }]
        : [],
    ),
  );
  const devices = $derived(
    compareReservations(
      session.site,
      goodDevices.map((g) => g.value),
    ),
  );
  const bad = $derived(
    [...(plan?.networks ?? []), ...(plan?.reservations ?? [])].filter((r) => r.faults.length > 0),
  );
  const ports = $derived([...session.site.ports.keys()]);
  let port = $state('');
  const isOpen = (row: { iface?: Interface; differs: readonly PlanField[] }) =>
    !row.iface || row.differs.length > 0;
  const open = $derived(compared.rows.filter(isOpen));
  const openDevices = $derived(devices.rows.filter((r) => r.is !== 'same' && r.iface));

  function takeRows(rows: typeof compared.rows) {
    const changes = takePlan(session.site, rows, port ? { port } : {});
    if (changes.length)
      session.apply(
        changes,
        rows.length === 1 ? `plan: line ${good[rows[0]!.row]!.line}` : `plan: ${rows.length} rows`,
      );
  }
  function takeDevices(rows: typeof devices.rows) {
    const changes = takeReservations(session.site, rows);
    if (changes.length) session.apply(changes, `reservations: ${rows.length}`);
  }
  const WORD: Readonly<Record<PlanField, string>> = {
    name: 'name',
    tag: 'tag',
    own: 'subnet',
    pool: 'pool',
    zone: 'zone',
  };
  function hereText(iface: Interface, field: PlanField): string {
    switch (field) {
      case 'name':
        return iface.name;
      case 'tag':
        return iface.tag === undefined ? 'untagged' : String(iface.tag);
      case 'own':
        return iface.addresses[0] ? formatPrefix(iface.addresses[0].prefix) : 'none';
      case 'pool':
        return iface.pools.flatMap((p) => p.ranges.map(formatRange)).join(' ') || 'nothing lent';
      case 'zone':
        return iface.zone?.name ?? 'none';
    }
  }
  function thereText(row: (typeof compared.rows)[number]['planned'], field: PlanField): string {
    switch (field) {
      case 'name':
        return row.name ?? '';
      case 'tag':
        return String(row.tag ?? '');
      case 'own':
        return row.own ? formatPrefix(row.own) : '';
      case 'pool':
        return row.pool?.map(formatRange).join(' ') || 'nothing lent';
      case 'zone':
        return row.zone ?? '';
    }
  }
  async function read(files: FileList | null) {
    const [file] = files ?? [];
    if (file) take(await file.text(), file.name);
  }
  const site = $derived(session.name.replaceAll(/[^A-Za-z0-9-]+/g, '-').toLowerCase() || 'site');
</script>

<section class="panel p-3" aria-label="address plan" data-testid="plan">
  <div class="flex flex-wrap items-center gap-2">
    <h2 class="h2">Address plan</h2>
    <label class="btn btn-sm focus-within:outline-3 focus-within:outline-(--focus)"
      >choose a CSV file …<input
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        class="sr-only"
        data-testid="plan-file"
        onchange={(e) => void read(e.currentTarget.files)}
      /></label
    >
    <span class="quiet">or paste it below</span>
    <span class="ms-auto flex gap-1">
      <button
        class="btn btn-sm"
        data-testid="plan-csv"
        onclick={() => saveFile(`${site}-plan.csv`, planCsv(session.site), 'text/csv')}>plan as CSV</button
      >
      <button
        class="btn btn-sm"
        onclick={() => saveFile(`${site}-reservations.csv`, reservationsCsv(session.site), 'text/csv')}
        >reservations as CSV</button
      >
      <button
        class="btn btn-sm"
        onclick={() => saveFile(`${site}-plan.md`, planMarkdown(session.site), 'text/markdown')}
        >as Markdown</button
      >
      <button class="btn btn-ghost btn-sm" aria-label="close the plan" onclick={onclose}>✕</button>
    </span>
  </div>
  <textarea
    class="field mono mt-2 h-20"
    aria-label="the plan as text"
    placeholder={EXAMPLE}
    bind:value={text}
    data-testid="plan-text"></textarea>
  {#if plan}
    <p class="mt-1">
      {name || 'pasted'}: {plan.networks.length + plan.reservations.length} rows of {isDevices
        ? 'reservations'
        : 'networks'}, set apart by
      {plan.delimiter === '\t' ? 'tabs' : `“${plan.delimiter}”`}{plan.heads.length ? '' : ', without heads'}
    </p>
    <div class="mt-1 flex flex-wrap gap-2" aria-label="what each column is">
      {#each Array.from({ length: Math.min(plan.width, 16) }, (_, i) => i) as i (i)}
        {@const is = PLAN_COLUMNS.find((c) => plan.columns[c] === i) ?? ''}
        <label
          ><span class="mono text-[12px]">{plan.heads[i] || `column ${i + 1}`}</span>
          <select
            class="select w-32 select-xs"
            value={is}
            data-testid={`column-${i}`}
            onchange={(e) => choose(i, e.currentTarget.value)}
            ><option value="">not used</option>{#each PLAN_COLUMNS as c (c)}<option value={c}
                >{COLUMN_WORDS[c]}</option
              >{/each}</select
          ></label
        >
      {/each}
    </div>
    {#if bad.length}
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <ul
        tabindex="0"
        class="ground-error mt-2 max-h-40 overflow-auto rounded p-2"
        aria-label="rows that cannot be taken"
        data-testid="plan-bad"
      >
        {#each bad as r (r.line)}
          <li>
            ■ line {r.line}, <span class="mono">{r.cells.filter(Boolean).join(' · ')}</span>: {r.faults
              .map(planFaultText)
              .join('; ')}
          </li>
        {/each}
      </ul>
    {/if}
    {#if isDevices}
      <div class="mt-2 flex items-center gap-2">
        <button
          class="btn btn-sm btn-primary"
          disabled={!openDevices.length}
          data-testid="plan-take-all"
          onclick={() => takeDevices(openDevices)}>Take over all {openDevices.length}</button
        >
        <span class="quiet">{devices.rows.filter((r) => r.is === 'same').length} are the same already</span>
      </div>
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="mt-1 max-h-96 overflow-auto" role="region" tabindex="0" aria-label="rows of the plan">
        <table class="w-full text-[12.5px]" data-testid="plan-table">
          <thead
            ><tr class="text-start"
              ><th>line</th><th>MAC</th><th>address</th><th>device</th><th>is</th><th></th></tr
            ></thead
          >
          <tbody>
            {#each devices.rows as r (r.row)}
              <tr class="border-t border-base-300">
                <td>{goodDevices[r.row]!.row.line}</td>
                <td class="mono">{formatMac(r.planned.mac)}</td>
                <td class="mono">{formatIp(r.planned.address)}</td>
                <td>{r.planned.label ?? ''}</td>
                <td>
                  {#if !r.iface}<span class="font-semibold text-error"
                      >■ no network here has that address</span
                    >
                  {:else if r.is === 'same'}= same
                  {:else if r.is === 'differs'}≠ kept now: <span class="mono"
                      >{formatIp(r.kept!.address)}</span
                    >
                    {r.kept!.label}
                  {:else}+ only in the sheet{/if}
                </td>
                <td class="text-end">
                  {#if r.is !== 'same' && r.iface}<button
                      class="link text-primary"
                      onclick={() => takeDevices([r])}>take over</button
                    >{/if}
                </td>
              </tr>
            {/each}
            {#each devices.onlyHere as r (r.mac)}
              <tr class="border-t border-base-300 quiet">
                <td></td><td class="mono">{formatMac(r.mac)}</td><td class="mono">{formatIp(r.address)}</td
                ><td>{r.label ?? ''}</td><td>− only here</td><td></td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {:else}
      <div class="mt-2 flex flex-wrap items-center gap-2">
        <button
          class="btn btn-sm btn-primary"
          disabled={!open.length}
          data-testid="plan-take-all"
          onclick={() => takeRows(open)}>Take over all {open.length}</button
        >
        <label
          >new ones on port <select class="select w-24 select-xs" bind:value={port} data-testid="plan-port"
            ><option value="">the trunk</option>{#each ports as p (p)}<option>{p}</option>{/each}</select
          ></label
        >
        <span class="quiet" data-testid="plan-sum"
          >{compared.rows.length - open.length} are the same already, {open.filter((r) => r.iface).length} differ,
          {open.filter((r) => !r.iface).length} only in the sheet, {compared.onlyHere.length} only here</span
        >
      </div>
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="mt-1 max-h-96 overflow-auto" role="region" tabindex="0" aria-label="rows of the plan">
        <table class="w-full text-[12.5px]" data-testid="plan-table">
          <thead
            ><tr class="text-start"
              ><th class="text-start">line</th><th class="text-start">network</th><th class="text-start"
                >tag</th
              ><th class="text-start">subnet</th><th class="text-start">zone</th><th class="text-start"
                >beside the draft</th
              ><th></th></tr
            ></thead
          >
          <tbody>
            {#each compared.rows as r (r.row)}
              <tr class="border-t border-base-300" data-testid={`plan-row-${good[r.row]!.line}`}>
                <td>{good[r.row]!.line}</td>
                <td class="mono">{r.planned.name ?? ''}</td>
                <td class="mono">{r.planned.tag ?? '—'}</td>
                <td class="mono">{r.planned.own ? formatPrefix(r.planned.own) : ''}</td>
                <td>{r.planned.zone ?? ''}</td>
                <td>
                  {#if !r.iface}+ only in the sheet
                  {:else if !r.differs.length}= same
                  {:else}≠ {#each r.differs as f, n (f)}{n ? '; ' : ''}{WORD[f]}
                      <span class="mono line-through">{hereText(r.iface, f)}</span>
                      <span class="mono">{thereText(r.planned, f)}</span>{/each}{/if}
                </td>
                <td class="text-end">
                  {#if isOpen(r)}<button
                      class="link text-primary"
                      data-testid={`plan-take-${good[r.row]!.line}`}
                      onclick={() => takeRows([r])}>take over</button
                    >{/if}
                </td>
              </tr>
            {/each}
            {#each compared.onlyHere as i (i.name)}
              <tr class="border-t border-base-300 quiet">
                <td></td><td class="mono">{i.name}</td><td class="mono">{i.tag ?? '—'}</td><td class="mono"
                  >{hereText(i, 'own')}</td
                ><td>{i.zone?.name ?? ''}</td><td>− only here</td><td></td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  {:else}
    <p class="mt-1 quiet">
      {plannedIn(session.site).length} networks are here. A sheet with heads such as name, VLAN, subnet, gateway,
      pool and zone is compared with them row by row; one with MAC addresses is read as reservations.
    </p>
  {/if}
</section>
