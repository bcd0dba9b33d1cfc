<script lang="ts">
  import { useSession } from '../../session/index';
  const session = useSession();
  const keys: [string, string][] = [
    ['/', 'say line: a statement, a clause, or a question'],
    ['1 2 3 4 5', 'Board, Passage, Proof, Change, Text'],
    ['arrows', 'about the board: slabs, the heads of ports and zones'],
    ['Enter', 'open the slip of a slab or head; where a port and a zone meet, start an interface'],
    ['n, o', 'one more interface here; a zone behind this one'],
    ['m', 'move: a slab to a zone or port, from a port head its cable'],
    ['b', 'bridge a slab with a port, or take the port out'],
    ['Space, Del', 'select several; remove'],
    ['Ctrl+C, Ctrl+V', 'slabs as text'],
    ['Alt+↑ ↓', 'on a zone head: its place in the order of trust'],
    ['- +', 'a row denser, looser'],
    ['s', 'filter the board'],
    ['p', 'on a cell of the reach table: promise what it says'],
    ['c', 'on a port head: cut its cable on the bench (drill)'],
    ['f', 'findings'],
    ['Ctrl+Z, Ctrl+Y', 'undo, redo'],
    ['Esc', 'close, restore a drill, let go'],
    ['?', 'this sheet'],
  ];
  let dialog = $state<HTMLDialogElement>();
  $effect(() => dialog?.showModal());
</script>

<dialog
  bind:this={dialog}
  class="panel m-auto w-[34rem] p-4 text-base-content shadow-xl"
  onclose={() => (session.nav.help = false)}
  aria-label="Keys"
>
  <h2 class="mb-3 h2">Keys</h2>
  <dl class="grid grid-cols-[9rem_1fr] gap-y-2">
    {#each keys as [key, what] (key)}
      <dt><span class="key">{key}</span></dt>
      <dd>{what}</dd>
    {/each}
  </dl>
  <form method="dialog" class="mt-4 text-end"><button class="btn btn-sm">Close</button></form>
</dialog>
