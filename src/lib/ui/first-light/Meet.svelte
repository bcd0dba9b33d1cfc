<script lang="ts">
  import { changeClauses, joinChanges, writePorts } from '#core/edits';
  import { isName, isReserved } from '#core/notation';
  import { useSession } from '../../session/index';
  // The box out of its carton: its name, how many ports it has, and a password of one's own.
  let { ondone }: { ondone: () => void } = $props();
  const session = useSession();
  let boxName = $state('edge');
  let ports = $state(session.site.ports.size || 4);
  let password = $state('');
  let again = $state('');
  const MOST_PORTS = 64;
  const nameFault = $derived(
    isName(boxName) && !isReserved(boxName)
      ? ''
      : 'up to 15 lower-case letters, digits and hyphens, a letter first',
  );
  const portFault = $derived(
    Number.isInteger(ports) && ports >= 2 && ports <= MOST_PORTS ? '' : `from 2 to ${MOST_PORTS} ports`,
  );
  const passwordFault = $derived(
    password === ''
      ? ''
      : password.length < 10
        ? 'at least ten characters'
        : again !== '' && password !== again
          ? 'the two differ'
          : '',
  );
  const good = $derived(password !== '' && password === again && !passwordFault && !nameFault && !portFault);
  function meet() {
    if (!good) return;
    const { box } = session.site;
    const named =
      box && box.name !== boxName
        ? changeClauses(session.site, box, [{ do: 'rename', from: box.name, to: boxName }])
        : [];
    const changes = joinChanges(named, writePorts(session.site, ports).changes);
    if (changes.length && !session.apply(changes, 'name the box')) return;
    session.tell({ do: 'set-password' });
    password = again = '';
    ondone();
  }
</script>

{#if session.isLive && session.live?.sight}
  {@const { box, ports: seen } = session.live.sight}
  <p data-testid="live-met">
    This is the live box at <b class="mono">{session.live.place}</b>: Linux {box.kernel}, {seen.length} ports;
    {box.running === 'none' ? 'nothing of ours runs on it yet' : `it runs ${box.running}`}. You get in by your
    ssh key, so there is no password to set here.
  </p>
  {#if box.others.length}<p>
      ▲ It is also configured by {box.others.join(', ')}: stop that, or they undo each other’s work.
    </p>{/if}
  <button class="btn w-fit btn-primary btn-sm" data-testid="meet" onclick={ondone}>On to its ports</button>
{:else}
  <p>
    The box is fresh from its carton: nothing is configured, nothing passes, and everybody knows its password.
    So that comes first.
  </p>
  <form
    class="grid max-w-md gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      meet();
    }}
  >
    <div class="grid grid-cols-2 gap-3">
      <label
        >its name <input
          class="field mono"
          bind:value={boxName}
          aria-invalid={nameFault !== ''}
          data-testid="box-name"
          spellcheck="false"
        /></label
      >
      <label
        >how many ports <input
          class="field mono"
          type="number"
          min="2"
          max={MOST_PORTS}
          bind:value={ports}
          aria-invalid={portFault !== ''}
          data-testid="port-count"
        /></label
      >
    </div>
    {#if nameFault}<p class="text-error" role="alert">{nameFault}</p>{/if}
    {#if portFault}<p class="text-error" role="alert">{portFault}</p>{/if}
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
    {#if passwordFault}<p class="text-error" role="alert">{passwordFault}</p>{/if}
    <button class="btn w-fit btn-primary btn-sm" disabled={!good} data-testid="meet">Set it, and on</button>
    <p class="quiet">
      The bench box remembers only that it was changed; the password itself is kept nowhere.
    </p>
  </form>
{/if}
