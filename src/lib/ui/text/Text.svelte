<script lang="ts">
  import { useSession } from '../../session/index';
  import TextPane from './TextPane.svelte';
  const session = useSession();
</script>

<div class="grid h-full min-h-0 grid-cols-[repeat(auto-fit,minmax(420px,1fr))] gap-3 p-3" data-testid="text">
  {#each session.files as file (file.name)}
    <TextPane name={file.name} text={file.text} />
  {/each}
</div>
