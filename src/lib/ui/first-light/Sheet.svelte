<script lang="ts">
  import { writeUplink } from '#core/edits';
  import {
    correctSheet,
    isDoubted,
    lineTerms,
    readHandoff,
    sheetFields,
    sheetText,
  } from '#core/formats/handoff';
  import type { Corrections, SheetField } from '#core/formats/handoff';
  import { MISSING_TEXTS, SHEET_LABELS, contradictionText, sheetFaultText } from '#words';
  import { useSession } from '../../session/index';
  import Slot from '../controls/Slot.svelte';
  import Sure from '../controls/Sure.svelte';
  import Statements from './Statements.svelte';
  // The provider's sheet: pasted, or field by field; read back in rows that can be corrected and ticked off.
  let { line, ondone }: { line: string; ondone: () => void } = $props();
  const session = useSession();
  const site = $derived(session.site);
  const options = $derived({
    name: 'line',
    port: line,
    zone: site.zones.find((z) => z.upstream)?.name ?? 'world',
  });
  const readAll = $derived(readHandoff(session.sheet, options));
  /** Of a sheet that speaks of several lines, one is written at a time. */
  let which = $state(0);
  const read = $derived(readAll.circuits?.[which] ?? readAll);
  const rows = $derived(session.sheetRows as Corrections);
  const now = $derived(correctSheet(read, rows, options));
  const fields = $derived(sheetFields(now.found.kind));
  let ticked = $state<readonly string[]>([]);
  let sure = $state<readonly string[]>([]);
  const isEmpty = $derived(session.sheet.trim() === '' && Object.keys(rows).length === 0);
  const written = $derived(
    writeUplink(site, `${now.statement}, answers ping, guard`, 'line', lineTerms(now.found)),
  );
  /** What must be mended, or confirmed by its name. */
  const stops = $derived([
    ...now.contradictions.map((c) => ({ id: c.code, says: contradictionText(c) })),
    ...now.missing
      .filter((m) => !['names', 'secret'].includes(m))
      .map((m) => ({ id: `no-${m}`, says: MISSING_TEXTS[m] ?? m })),
  ]);
  const open = $derived(stops.filter((s) => !sure.includes(s.id)));
  const isGood = $derived(open.length === 0 && now.faults.length === 0);
  const takes = (field: SheetField) =>
    field === 'secret' ? ('secret' as const) : field === 'user' ? ('text' as const) : ('word' as const);
  const choices: Readonly<Partial<Record<SheetField, readonly string[]>>> = {
    kind: ['static', 'dhcp', 'pppoe'],
    auto6: ['slaac', 'dhcpv6', 'slaac and dhcpv6'],
  };
  function put(field: SheetField, value: string) {
    const { [field]: _, ...others } = rows;
    // What the sheet says itself needs no correction, unless it says something else as well.
    const isSaid = value === sheetText(read.found, field) && !isDoubted(read, field);
    session.sheetRows = isSaid ? others : { ...others, [field]: value };
    void session.save();
    session.prove();
  }
  /** Ticked off against the paper; where the sheet says two things of it, the row is the one that counts. */
  function tick(field: SheetField, value: string, on: boolean) {
    ticked = on ? [...ticked, field + value] : ticked.filter((t) => t !== field + value);
    if (on && isDoubted(read, field)) put(field, value);
  }
  let focused = $state(false);
  const secret = $derived(read.found.secret);
  const shown = $derived(
    focused || !secret
      ? session.sheet
      : session.sheet.replaceAll(secret, '•'.repeat(Math.min(12, secret.length))),
  );
</script>

<p>
  Paste what the provider sent: the mail, the table, or just a line such as <span class="mono"
    >198.51.100.18/29 gw .17 dns 192.0.2.53</span
  >. Or fill in the rows. Both stay with the site.
</p>
{#if session.isLive && session.live?.sheet && isEmpty}
  {@const sheet = session.live.sheet}
  <button
    class="btn btn-xs"
    data-testid="take-sheet"
    onclick={() => {
      session.sheet = sheet;
      void session.save();
      session.prove();
    }}>Take what the provider of the practice line sent</button
  >
{/if}
<textarea
  class="field mono text-[12.5px]"
  rows="4"
  spellcheck="false"
  value={shown}
  onfocus={() => (focused = true)}
  oninput={(e) => (session.sheet = e.currentTarget.value)}
  onblur={() => {
    focused = false;
    void session.save();
    session.prove();
  }}
  data-testid="sheet"
  aria-label="The provider’s sheet"></textarea>
{#if readAll.circuits}
  <label
    >The sheet speaks of {readAll.circuits.length} lines; this one:
    <select class="field inline w-24" bind:value={which}>
      {#each readAll.circuits as _, i (i)}<option value={i}>{i + 1}</option>{/each}
    </select></label
  >
{/if}
<div class="grid gap-4 min-[1000px]:grid-cols-2">
  <div>
    <p class="mb-1 quiet">
      {isEmpty ? 'Field by field' : 'Read back, to correct and to tick off against the paper'}
    </p>
    <div class="grid grid-cols-[1.25rem_8rem_1fr] items-center gap-x-2 gap-y-1" data-testid="sheet-rows">
      {#each fields as field (field)}
        {@const value = rows[field] ?? sheetText(now.found, field)}
        {@const wrong = now.faults.includes(field)}
        <input
          type="checkbox"
          class="checkbox checkbox-xs"
          disabled={value === ''}
          aria-label={`${SHEET_LABELS[field]} stands so on the paper`}
          checked={value !== '' && ticked.includes(field + value)}
          onchange={(e) => tick(field, value, e.currentTarget.checked)}
        />
        <label for={`sheet-${field}`} class="quiet"
          >{SHEET_LABELS[field]}{#if rows[field] !== undefined && read.found[field] !== undefined}<span
              class="text-warning"
              title={`the sheet says ${field === 'secret' ? '••••' : sheetText(read.found, field)}`}
            >
              corrected</span
            >{/if}</label
        >
        <div class="min-w-0">
          <Slot
            id={`sheet-${field}`}
            testid={`sheet-${field}`}
            label={SHEET_LABELS[field]}
            slot={field === 'onlink'
              ? { key: field, takes: 'flag', lead: 'onlink', may: true }
              : { key: field, takes: takes(field), words: choices[field], may: field !== 'kind' }}
            offers={choices[field] ?? []}
            kinds={field === 'kind' ? ['fixed addresses (static)', 'DHCP', 'PPPoE login'] : []}
            {value}
            invalid={wrong}
            describedby={wrong ? `sheet-${field}-why` : undefined}
            placeholder="the sheet does not say"
            oncommit={(v) => put(field, v)}
          />
          {#if wrong}<p id={`sheet-${field}-why`} class="text-error" role="alert">
              {sheetFaultText(field)}
            </p>{/if}
        </div>
      {/each}
    </div>
  </div>
  <div class="space-y-2">
    {#if isEmpty}<p class="quiet">Nothing is read yet: what stands here then is what will be written.</p>
    {:else}
      <!-- First, so that nothing that is told of the rows moves it from under the pointer. -->
      <button
        class="btn btn-primary btn-sm"
        data-testid="write-uplink"
        disabled={!isGood}
        onclick={() => session.apply(written.changes, 'the provider’s sheet') && ondone()}
        >Write it, and on</button
      >
      <Statements list={written.statements} />
      {#each now.missing.filter((m) => ['names', 'secret'].includes(m)) as m (m)}
        <p class="text-warning">▲ {MISSING_TEXTS[m] ?? m}</p>
      {/each}
      {#each stops as stop (stop.id)}
        <div class="ground-error rounded p-2" role="alert">
          <p>■ {stop.says}</p>
          <Sure
            id={stop.id}
            code={stop.id}
            text="write it all the same:"
            testid={`sure-${stop.id}`}
            bind:confirmed={sure}
          />
        </div>
      {/each}
      {#if stops.length}<p class="quiet">
          Ask the provider, and correct the row that is wrong: what contradicts itself is not written unless
          you confirm it by its name.
        </p>{/if}
    {/if}
  </div>
</div>
