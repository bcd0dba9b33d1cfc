<script lang="ts">
  // The tags of a trunk to scale, so that gaps and heaps are seen. Six pixels high, words in its title.
  let { tags }: { tags: readonly number[] } = $props();
  const first = $derived(tags[0]!);
  const span = $derived(Math.max(1, tags[tags.length - 1]! - first));
</script>

<svg
  class="ruler"
  viewBox="0 0 1000 6"
  preserveAspectRatio="none"
  role="img"
  aria-label={`${tags.length} tags from ${first} to ${first + span}`}
>
  <title>{tags.length} tags from {first} to {tags[tags.length - 1]}: {tags.join(' ')}</title>
  <line x1="0" y1="5.5" x2="1000" y2="5.5" />
  {#each tags as tag (tag)}
    <rect x={((tag - first) / span) * 994} y="0" width="6" height="6" />
  {/each}
</svg>

<style>
  .ruler {
    position: absolute;
    left: 10px;
    bottom: 1px;
    width: calc(100% - 20px);
    height: 6px;
  }
  rect {
    fill: var(--color-base-content);
  }
  line {
    stroke: var(--quiet);
    stroke-width: 1;
  }
</style>
