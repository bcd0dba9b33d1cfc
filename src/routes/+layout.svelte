<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next/index.css';
  import '@fontsource-variable/jetbrains-mono/index.css';
  import '../app.css';
  let { children } = $props();
</script>

{@render children()}
