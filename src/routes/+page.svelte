<script lang="ts">
  import { onMount } from 'svelte';
  import { provideSession, Session } from '$lib/session/index';
  import Frame from '$lib/ui/frame/Frame.svelte';

  const session = provideSession(new Session());

  async function demo(site?: 'branch') {
    const response = await fetch(site ? `/demo?site=${site}` : '/demo');
    return (await response.json()) as { name: string; files: { name: string; text: string }[] };
  }

  onMount(() => {
    void session.start(() => demo());
    return () => session.stop();
  });
</script>

<svelte:head><title>{session.name ? `${session.name} · Jolly Gate` : 'Jolly Gate'}</title></svelte:head>

<Frame {demo} />
