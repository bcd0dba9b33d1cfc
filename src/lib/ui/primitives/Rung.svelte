<script lang="ts">
  // One rung of a ladder. Evidence: dashed where supposed, outlined on the bench, solid for the running box.
  let {
    result,
    evidence,
    label = '',
    title = '',
    half = false,
  }: {
    result: 'pass' | 'fail' | 'skipped';
    evidence: 'supposed' | 'bench' | 'live';
    label?: string;
    title?: string;
    half?: boolean;
  } = $props();
</script>

<span class="inline-flex items-center gap-1.5 whitespace-nowrap" {title}>
  <span class={['rung', result, evidence, half && 'half']} aria-hidden="true">
    {result === 'fail' ? '✕' : ''}
  </span>
  {#if label}<span class={result === 'fail' ? 'font-semibold text-error' : 'quiet'}>{label}</span>{/if}
  <span class="sr-only">{result}</span>
</span>

<style>
  .rung {
    width: 10px;
    height: 14px;
    border-radius: 2px;
    font: 700 11px/12px var(--font-mono);
    text-align: center;
    flex: none;
  }
  .half {
    height: 7px;
    line-height: 6px;
    font-size: 7px;
  }
  .pass {
    border: 2px solid var(--color-success);
  }
  .pass.live {
    background: var(--color-success);
  }
  .pass.supposed {
    border-style: dashed;
  }
  .fail {
    border: 2px solid var(--color-error);
    color: var(--color-error);
    line-height: 10px;
    width: 13px;
  }
  .fail.supposed {
    border-style: dashed;
  }
  .skipped {
    width: 1px;
    margin: 0 4px;
    background: var(--quiet);
    border-radius: 0;
  }
  @media (forced-colors: active) {
    .pass.live,
    .skipped {
      forced-color-adjust: none;
      background: CanvasText;
      border-color: CanvasText;
    }
  }
</style>
