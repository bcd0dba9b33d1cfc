<script lang="ts">
  // Our mark: one swung bar on its post.
  let { size = 24 }: { size?: number } = $props();
</script>

<svg width={size} height={size} viewBox="0 0 32 32" fill="none" aria-hidden="true">
  <path d="M6 27V6" stroke="currentColor" stroke-width="4" stroke-linecap="round" />
  <path d="M6 11 27 5" stroke="currentColor" stroke-width="4" stroke-linecap="round" />
  <path
    d="M11 19h15"
    stroke="currentColor"
    stroke-width="3"
    stroke-linecap="round"
    stroke-dasharray="1 5"
    opacity="0.7"
  />
</svg>
