const rest = () => new Promise((resolve) => setTimeout(resolve));

/**
 * The parts of the chart library that drills are drawn with, loaded when a chart is first shown: each in a task of its
 * own, since all of them at once would keep the page for a tenth of a second.
 */
export async function charts() {
  const { init, use } = await import('echarts/core');
  await rest();
  const { CanvasRenderer } = await import('echarts/renderers');
  await rest();
  const { LineChart, ScatterChart } = await import('echarts/charts');
  await rest();
  const { GridComponent, MarkLineComponent, TooltipComponent } = await import('echarts/components');
  await rest();
  use([LineChart, ScatterChart, GridComponent, MarkLineComponent, TooltipComponent, CanvasRenderer]);
  return { init };
}
