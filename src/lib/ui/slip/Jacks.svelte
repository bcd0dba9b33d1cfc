<script lang="ts">
  import { replug } from '#core/edits';
  import type { StatementOf } from '#core/notation';
  import { claimantAt, landingOf } from '#core/site';
  import { useSession } from '../../session/index';
  // A switch by its jacks: what tag each gives, whose network that is, and who sits there. Stations move by drag or list.
  let { statement }: { statement: StatementOf<'switch'> } = $props();
  const session = useSession();
  const jacks = $derived(
    statement.jacks.map(({ value: { jack, tag } }) => {
      const plug = { to: 'jack' as const, switch: statement.name, jack, at: statement.head };
      const here = [...session.site.stations, ...session.site.circuits, ...session.site.switches].filter(
        (s) => s.plug?.to === 'jack' && s.plug.switch === statement.name && s.plug.jack === jack,
      );
      const iface = claimantAt(session.site, landingOf(session.site, plug));
      return { jack, tag, here, network: iface?.name ?? '' };
    }),
  );
  const lease = (name: string) => session.derived?.draft.leases.find((l) => l.station === name);
  let dragged = $state<string | undefined>();
  function plugIn(subject: string, jack: number) {
    const s = session.statementOf(subject);
    if (s)
      session.apply(
        replug(session.site, s, `${statement.name}/${jack}`),
        `plug ${subject.replace('/', ' ')} into ${statement.name}/${jack}`,
      );
  }
</script>

<h3 class="mt-4 mb-1 font-semibold">Jacks</h3>
<table class="w-full text-[12px]" data-testid="jacks">
  <thead class="quiet"
    ><tr
      ><th class="text-start font-normal">jack</th><th class="text-start font-normal">tag</th><th
        class="text-start font-normal">network</th
      ><th class="text-start font-normal">plugged in</th></tr
    ></thead
  >
  <tbody>
    {#each jacks as j (j.jack)}
      <tr
        class="border-t border-base-300"
        data-testid={`jack-${j.jack}`}
        ondragover={(e) => dragged && e.preventDefault()}
        ondrop={() => {
          if (dragged) plugIn(dragged, j.jack);
          dragged = undefined;
        }}
      >
        <td class="mono py-1">{j.jack}</td>
        <td class="mono">{j.tag}</td>
        <td>{j.network || (j.tag === statement.native ? 'native' : '—')}</td>
        <td>
          {#each j.here as s (s.subject)}
            <div class="flex items-baseline gap-1">
              <!-- svelte-ignore a11y_no_static_element_interactions -->
              <span
                class="cursor-grab"
                draggable="true"
                data-testid={`plugged-${s.name}`}
                ondragstart={() => (dragged = s.subject)}
                ondragend={() => (dragged = undefined)}
              >
                <button class="link link-hover" onclick={() => session.nav.select(s.subject)}>{s.name}</button
                >
                {#if lease(s.name)}<span class="mono quiet">{lease(s.name)!.address}</span>{/if}
              </span>
              <select
                class="ms-auto rounded border border-base-300 bg-base-100"
                aria-label={`Jack of ${s.name}`}
                data-testid={`jack-of-${s.name}`}
                value={j.jack}
                onchange={(e) => plugIn(s.subject, Number(e.currentTarget.value))}
              >
                {#each jacks as o (o.jack)}<option value={o.jack}>{o.jack}</option>{/each}
              </select>
            </div>
          {:else}<span class="quiet">nothing</span>{/each}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
<p class="mt-1 quiet">
  native {statement.native}; carries {statement.carries.map((c) => c.value).join(' ') || 'no tag'}
</p>
