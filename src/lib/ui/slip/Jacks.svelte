<script lang="ts">
  import { replug } from '#core/edits';
  import type { StatementOf } from '#core/notation';
  import { claimantAt, interfaceAt, landingOf, routersOn, segmentOf } from '#core/site';
  import { jackTagsText } from '#words';
  import { useSession } from '../../session/index';
  // A switch by its jacks: the tags that each gives, whose networks those are, and what is plugged in there. Stations,
  // circuits and whole switches move by drag or list.
  let { statement }: { statement: StatementOf<'switch'> } = $props();
  const session = useSession();
  const jacks = $derived(
    statement.jacks.map(({ value: { jack, tag, carries } }) => {
      const plug = { to: 'jack' as const, switch: statement.name, jack, at: statement.head };
      const here = [...session.site.stations, ...session.site.circuits, ...session.site.switches].filter(
        (s) => s.plug?.to === 'jack' && s.plug.switch === statement.name && s.plug.jack === jack,
      );
      const routers = session.site.routers.filter((r) =>
        r.legs.some(
          ({ value: { plug: p } }) => p.to === 'jack' && p.switch === statement.name && p.jack === jack,
        ),
      );
      const tags = [...(tag === undefined ? [] : [undefined]), ...carries.map((c) => c.value)];
      const networks = tags.flatMap((t) => {
        const landing = landingOf(session.site, { ...plug, tag: t });
        const own = claimantAt(session.site, landing);
        // What does not get to the box may be a network of a router.
        const behind = routersOn(session.wiring, segmentOf(session.site, landing))[0];
        if (behind && !interfaceAt(session.site, landing))
          return [{ text: `behind ${behind.router.name}`, subject: behind.router.statement.subject }];
        return own ? [{ text: own.name, subject: own.statement.subject }] : [];
      });
      return {
        jack,
        tag,
        tags: jackTagsText({ tag, carries: carries.map((c) => c.value) }),
        here,
        routers,
        networks,
      };
    }),
  );
  const lease = (name: string) => session.derived?.draft.leases.find((l) => l.station === name);
  let dragged = $state<string | undefined>();
  function plugIn(subject: string, jack: number) {
    const s = session.statementOf(subject);
    if (!s || !('plug' in s)) return;
    // What speaks with a tag of its own goes on doing so.
    const tag = s.plug?.tag === undefined ? '' : ` tag ${s.plug.tag}`;
    session.apply(
      replug(session.site, s, `${statement.name}/${jack}${tag}`),
      `plug ${subject.replace('/', ' ')} into ${statement.name}/${jack}`,
    );
  }
</script>

<h3 class="mt-4 mb-1 font-semibold">Jacks</h3>
<table class="w-full text-[12px]" data-testid="jacks">
  <thead class="quiet"
    ><tr
      ><th class="pe-2 text-start font-normal">jack</th><th class="text-start font-normal">VLANs</th><th
        class="text-start font-normal">networks</th
      ><th class="text-start font-normal">plugged in</th></tr
    ></thead
  >
  <tbody>
    {#each jacks as j (j.jack)}
      <tr
        class="border-t border-base-300 align-baseline"
        data-testid={`jack-${j.jack}`}
        ondragover={(e) => dragged && e.preventDefault()}
        ondrop={() => {
          if (dragged) plugIn(dragged, j.jack);
          dragged = undefined;
        }}
      >
        <td class="mono py-1 pe-2">{j.jack}</td>
        <td class="mono pe-2">{j.tags}</td>
        <td class="pe-2">
          {#each j.networks as n, k (k)}
            {k ? ', ' : ''}<button
              class="link text-start link-hover"
              onclick={() => session.nav.select(n.subject)}>{n.text}</button
            >
          {:else}{j.tag === statement.native ? 'native' : '—'}{/each}
        </td>
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
                <button class="link text-start link-hover" onclick={() => session.nav.select(s.subject)}
                  >{s.kind === 'station' ? '' : `${s.kind} `}{s.name}</button
                >
                {#if s.plug?.tag !== undefined}<span class="quiet">tag {s.plug.tag}</span>{/if}
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
          {/each}
          {#each j.routers as r (r.subject)}
            <button class="link text-start link-hover" onclick={() => session.nav.select(r.subject)}
              >router {r.name}</button
            >
          {/each}
          {#if !j.here.length && !j.routers.length}<span class="quiet">nothing</span>{/if}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
<p class="mt-1 quiet">
  native {statement.native}; carries {statement.carries.map((c) => c.value).join(' ') || 'no tag'}
</p>
