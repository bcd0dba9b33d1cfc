<script lang="ts">
  import { onMount } from 'svelte';
  import type { ECharts } from 'echarts/core';
  import { charts } from './echarts';
  import { drillOption, heightFor } from './chart';
  import type { Look, Mark, NamedRun } from './chart';
  // Drills over time, on a canvas. A click tells the second that it was in.
  let {
    runs,
    marks,
    says,
    onpick,
  }: {
    runs: readonly NamedRun[];
    marks: readonly Mark[];
    says: string;
    onpick: (second: number) => void;
  } = $props();
  let place = $state<HTMLDivElement>();
  let chart = $state.raw<ECharts | undefined>();
  let theme = $state('');
  const height = $derived(heightFor(runs));

  function look(at: Element): Look {
    const css = getComputedStyle(at);
    const of = (name: string) => css.getPropertyValue(name).trim();
    return {
      ink: of('--color-base-content'),
      quiet: of('--quiet'),
      line: of('--color-base-300'),
      ground: of('--color-base-100'),
      lost: of('--color-error'),
      first: of('--color-primary'),
      second: of('--color-warning'),
      mono: of('--font-mono'),
    };
  }

  onMount(() => {
    theme = document.documentElement.dataset.theme ?? '';
    const watching = new MutationObserver(() => (theme = document.documentElement.dataset.theme ?? ''));
    watching.observe(document.documentElement, { attributeFilter: ['data-theme'] });
    // It is told of the size that the chart has been made with, too.
    const sized = new ResizeObserver(() => {
      if (chart && chart.getWidth() !== place?.clientWidth) chart.resize();
    });
    let gone = false;
    void charts().then(({ init }) => {
      if (gone || !place) return;
      const made = init(place);
      made.getZr().on('click', (event) => {
        const [second] = made.convertFromPixel({ gridIndex: 0 }, [event.offsetX, event.offsetY]);
        if (second !== undefined) onpick(second);
      });
      chart = made;
      sized.observe(place);
    });
    return () => {
      gone = true;
      watching.disconnect();
      sized.disconnect();
      chart?.dispose();
    };
  });
  $effect(() => {
    if (!chart || !place || theme === undefined) return;
    if (chart.getHeight() !== height) chart.resize({ height });
    const option = drillOption(runs, marks, look(place));
    // Axes first and the runs in a task of their own: a chart that is drawn for the first time takes long.
    chart.setOption({ ...option, series: [] }, { notMerge: true, lazyUpdate: true });
    const timer = setTimeout(() => chart?.setOption({ series: option.series }, { lazyUpdate: true }), 20);
    return () => clearTimeout(timer);
  });
</script>

<div
  bind:this={place}
  class="w-full cursor-crosshair"
  style:height="{height}px"
  role="img"
  aria-label={says}
  data-testid="drill-chart"
  data-drawn={chart ? 'yes' : 'no'}
></div>
