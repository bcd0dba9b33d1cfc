<script lang="ts">
  // The weight of a finding: shape, word for those who do not see it, and colour last.
  let { severity, count }: { severity: 'error' | 'warning' | 'advice'; count?: number } = $props();
  const shape = $derived({ error: '■', warning: '▲', advice: '●' }[severity]);
  const colour = $derived({ error: 'text-error', warning: 'text-warning', advice: 'quiet' }[severity]);
</script>

<span class="whitespace-nowrap">
  <span class={colour} aria-hidden="true">{shape}</span>{#if count !== undefined}<span
      class="ms-1 tabular-nums">{count}</span
    >{/if}
  <span class="sr-only">{severity}{count !== undefined && count !== 1 ? 's' : ''}</span>
</span>
