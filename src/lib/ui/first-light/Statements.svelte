<script lang="ts">
  import { maskSecrets } from '#core/notation';
  // What a step writes, before it is written; secrets are dots.
  let { list, word = 'This will be written' }: { list: readonly string[]; word?: string } = $props();
</script>

<aside class="w-full rounded border border-base-300 bg-base-200 p-3" aria-label={word}>
  <p class="mb-1 quiet">{word}</p>
  <pre class="mono text-[12.5px] leading-[19px] whitespace-pre-wrap">{maskSecrets(list.join('\n'))}</pre>
</aside>
