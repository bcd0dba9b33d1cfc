/** The chart of drills as data for the library that draws it: no element is touched here. */
import type { Beat, DrillRun } from '#core/proof/drills';

/** A drill with the name of the text it ran on. */
export interface NamedRun {
  readonly name: string;
  readonly run: DrillRun;
}

/** Colours of the theme that is on, as CSS says them. */
export interface Look {
  readonly ink: string;
  readonly quiet: string;
  readonly line: string;
  readonly ground: string;
  readonly lost: string;
  readonly first: string;
  readonly second: string;
  readonly mono: string;
}

/** What happened, in the order of time; its number is its mark in the chart. */
export interface Mark {
  readonly at: number;
  readonly text: string;
  /** Somebody did it, or the box noticed it. */
  readonly who: 'done' | 'noticed';
}

const NOBODY = 'nobody';
const TOP = 26;
const TRIPS = 110;
const BAND = 18;
const GAP = 14;

/** The addresses that anybody showed, in the order of their first showing. */
export const seenIn = (runs: readonly NamedRun[]): string[] => [
  ...new Set(runs.flatMap(({ run }) => run.fresh.map((b) => b.seen ?? NOBODY))),
];

/** How high the chart is, CSS pixels. */
export const heightFor = (runs: readonly NamedRun[]): number =>
  TOP + TRIPS + GAP + BAND * runs.length + GAP + BAND * Math.max(1, seenIn(runs).length) + 34;

/** Round trips as a line with gaps, lost pings as ticks, and the address that somebody who begins anew shows. */
export function drillOption(
  runs: readonly NamedRun[],
  marks: readonly Mark[],
  look: Look,
): Record<string, unknown> {
  const seconds = Math.max(1, ...runs.map(({ run }) => run.seconds));
  const seen = seenIn(runs);
  const lostTop = TOP + TRIPS + GAP;
  const seenTop = lostTop + BAND * runs.length + GAP;
  const grid = (top: number, height: number) => ({ left: 118, right: 14, top, height });
  const text = { color: look.ink, fontFamily: look.mono, fontSize: 12 };
  const xAxis = (gridIndex: number, last: boolean) => ({
    type: 'value',
    gridIndex,
    min: 0,
    max: seconds,
    axisLine: { show: last, lineStyle: { color: look.quiet } },
    axisTick: { show: last },
    axisLabel: { show: last, color: look.ink, formatter: '{value} s' },
    splitLine: { show: true, lineStyle: { color: look.line } },
  });
  const band = (gridIndex: number, data: readonly string[]) => ({
    type: 'category',
    gridIndex,
    data,
    inverse: true,
    axisLine: { show: false },
    axisTick: { show: false },
    axisLabel: { ...text, interval: 0 },
    splitLine: { show: true, lineStyle: { color: look.line } },
  });
  const tints = [look.first, look.second];
  return {
    animation: false,
    grid: [
      grid(TOP, TRIPS),
      grid(lostTop, BAND * runs.length),
      grid(seenTop, BAND * Math.max(1, seen.length)),
    ],
    xAxis: [xAxis(0, false), xAxis(1, false), xAxis(2, true)],
    yAxis: [
      {
        type: 'value',
        gridIndex: 0,
        min: 0,
        name: 'round trip, ms',
        nameLocation: 'middle',
        nameGap: 44,
        nameTextStyle: { color: look.quiet },
        axisLabel: { color: look.ink },
        splitLine: { lineStyle: { color: look.line } },
      },
      band(
        1,
        runs.map(({ name }) => `lost, ${name}`),
      ),
      band(2, seen),
    ],
    tooltip: {
      trigger: 'axis',
      axisPointer: { type: 'line', snap: false, lineStyle: { color: look.ink } },
      backgroundColor: look.ground,
      borderColor: look.quiet,
      textStyle: { color: look.ink, fontSize: 12 },
      formatter: (at: readonly { readonly axisValue: number }[]) =>
        tipAt(runs, Number(at[0]?.axisValue ?? 0)),
    },
    series: runs.flatMap(({ name, run }, i) => [
      {
        type: 'line',
        name: `trip ${name}`,
        xAxisIndex: 0,
        yAxisIndex: 0,
        showSymbol: false,
        connectNulls: false,
        data: run.row.map((b) => [b.at / 1000, b.trip ?? null]),
        lineStyle: { color: tints[i], width: i ? 1.5 : 2.5, type: i ? 'dashed' : 'solid' },
        itemStyle: { color: tints[i] },
        markLine: i
          ? undefined
          : {
              symbol: 'none',
              silent: true,
              data: marks.map((m, n) => ({
                xAxis: m.at / 1000,
                lineStyle: { color: look.ink, width: 1, type: m.who === 'done' ? 'solid' : 'dotted' },
                label: {
                  formatter: String(n + 1),
                  position: 'end',
                  color: m.who === 'done' ? look.ground : look.ink,
                  backgroundColor: m.who === 'done' ? look.ink : look.ground,
                  borderColor: look.ink,
                  borderWidth: 1,
                  borderRadius: m.who === 'done' ? 2 : 8,
                  padding: [2, 5],
                },
              })),
            },
      },
      {
        type: 'scatter',
        name: `lost ${name}`,
        xAxisIndex: 1,
        yAxisIndex: 1,
        symbol: 'rect',
        symbolSize: [2, 12],
        itemStyle: { color: look.lost },
        data: run.row.flatMap((b) => (b.trip === undefined ? [[b.at / 1000, `lost, ${name}`]] : [])),
      },
      {
        type: 'scatter',
        name: `seen ${name}`,
        xAxisIndex: 2,
        yAxisIndex: 2,
        symbol: i ? 'emptyCircle' : 'rect',
        symbolSize: i ? 6 : [5, 10],
        itemStyle: { color: tints[i] },
        data: run.fresh.map((b) => [b.at / 1000, b.seen ?? NOBODY]),
      },
    ]),
  };
}

/** What both drills show at a second. */
function tipAt(runs: readonly NamedRun[], at: number): string {
  const near = (beats: readonly Beat[]): Beat | undefined =>
    beats.reduce<Beat | undefined>(
      (best, b) => (!best || Math.abs(b.at - at * 1000) < Math.abs(best.at - at * 1000) ? b : best),
      undefined,
    );
  return [
    `${at.toFixed(1)} s`,
    ...runs.map(({ name, run }) => {
      const [row, fresh] = [near(run.row), near(run.fresh)];
      const trip = row?.trip === undefined ? 'lost' : `${row.trip.toFixed(1)} ms`;
      return `${name}: ${trip}; who begins now is seen as ${fresh?.seen ?? NOBODY}`;
    }),
  ].join('<br>');
}

/** One second of a drill, for who reads it as a table. */
export interface Second {
  readonly second: number;
  readonly lost: number;
  readonly sent: number;
  /** Milliseconds, of those that were answered. */
  readonly trip?: number;
  readonly seen: string;
}

/** A drill second by second. */
export function secondsOf({ row, fresh, seconds }: DrillRun): Second[] {
  return Array.from({ length: seconds }, (_, second) => {
    const own = row.filter((b) => Math.floor(b.at / 1000) === second);
    const trips = own.flatMap((b) => (b.trip === undefined ? [] : [b.trip]));
    return {
      second,
      sent: own.length,
      lost: own.length - trips.length,
      trip: trips.length ? trips.reduce((a, b) => a + b, 0) / trips.length : undefined,
      seen: fresh.find((b) => Math.floor(b.at / 1000) === second)?.seen ?? NOBODY,
    };
  });
}
