import { BarChart, CustomChart } from "echarts/charts";
import { GridComponent, TooltipComponent } from "echarts/components";
import { init, use as register, type EChartsType } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";
import type { SceneStatistics } from "../../../core/tone/sceneStatistics";
import { signed } from "../../ui/format";

register([BarChart, CustomChart, GridComponent, TooltipComponent, SVGRenderer]);

/** Stops below its own saturation that a frame still tells apart from noise. */
const USABLE_EV = 8.5;

interface Props {
  statistics: SceneStatistics;
  frames: { name: string; ev: number; used: boolean; reference: boolean; shown: boolean }[];
  onFrame: (i: number | undefined) => void;
}

/** The histogram of the merged scene in EV, and beside it the part of it that each frame holds. */
export function Ladder({ statistics: s, frames, onFrame }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType>(undefined);
  const pick = useRef(onFrame);
  useEffect(() => {
    pick.current = onFrame;
  });
  useEffect(() => {
    const c = (chart.current = init(box.current!, undefined, { renderer: "svg" }));
    c.on("click", (e) => {
      if (e.seriesIndex === 1) pick.current(e.dataIndex);
    });
    const watch = new ResizeObserver(() => c.resize());
    watch.observe(box.current!);
    return () => {
      watch.disconnect();
      c.dispose();
    };
  }, []);
  useEffect(() => {
    const css = getComputedStyle(document.documentElement);
    const colour = (n: string): string => css.getPropertyValue(n).trim();
    const lo = Math.floor(Math.min(s.lowEv, -8) / 2) * 2;
    const hi = Math.ceil(Math.max(s.highEv, 1, ...frames.map((f) => -f.ev)) / 2) * 2;
    const peak = Math.max(...s.counts);
    const bars = s.counts.map((n, i) => [Math.sqrt(n / peak), s.fromEv + (i + 0.5) * s.binEv]);
    const text = { color: colour("--quiet"), fontSize: 12, fontFamily: "Commissioner Variable" };
    chart.current!.setOption(
      {
        animation: false,
        grid: [
          { left: 30, top: 8, bottom: 22, width: 64 },
          { left: 100, right: 4, top: 8, bottom: 22 },
        ],
        xAxis: [
          { gridIndex: 0, type: "value", min: 0, max: 1, show: false },
          {
            gridIndex: 1,
            type: "category",
            data: frames.map((_, i) => String(i + 1)),
            axisLabel: { ...text, interval: 0 },
            axisLine: { show: false },
            axisTick: { show: false },
          },
        ],
        yAxis: [0, 1].map((gridIndex) => ({
          gridIndex,
          type: "value",
          min: lo,
          max: hi,
          interval: 2,
          axisLabel: gridIndex
            ? { show: false }
            : { ...text, formatter: (v: number) => signed(v, 0) },
          splitLine: { lineStyle: { color: colour("--line") } },
        })),
        tooltip: {
          trigger: "item",
          backgroundColor: colour("--raised"),
          borderColor: colour("--line"),
          textStyle: { ...text, color: colour("--ink") },
          formatter: (p: { seriesIndex: number; dataIndex: number }) => {
            const f = frames[p.dataIndex];
            return p.seriesIndex === 1 && f
              ? `${f.name.replace(/[<>&]/g, "_")}<br/>${signed(f.ev)} EV${f.used ? "" : ", left out"}`
              : "";
          },
        },
        series: [
          {
            type: "custom",
            xAxisIndex: 0,
            yAxisIndex: 0,
            silent: true,
            data: bars,
            renderItem: (
              _: unknown,
              api: { value(i: number): number; coord(v: number[]): number[] },
            ) => {
              const ev = api.value(1);
              if (ev < lo || ev > hi) return null;
              const a = api.coord([0, ev + s.binEv / 2]);
              const b = api.coord([api.value(0), ev - s.binEv / 2]);
              return {
                type: "rect",
                shape: { x: a[0], y: a[1], width: b[0]! - a[0]!, height: b[1]! - a[1]! + 0.5 },
                style: { fill: colour("--quiet"), opacity: 0.7 },
              };
            },
          },
          {
            type: "custom",
            xAxisIndex: 1,
            yAxisIndex: 1,
            data: frames.map((f, i) => [i, f.ev]),
            renderItem: (
              _: unknown,
              api: { value(i: number): number; coord(v: number[]): number[] },
            ) => {
              const i = api.value(0);
              const f = frames[i]!;
              const top = api.coord([i, Math.min(hi, -f.ev)]);
              const end = api.coord([i, Math.max(lo, -f.ev - USABLE_EV)]);
              return {
                type: "rect",
                shape: {
                  x: top[0]! - 4,
                  y: top[1],
                  width: 8,
                  height: Math.max(2, end[1]! - top[1]!),
                  r: 1,
                },
                style: {
                  fill: f.shown || f.reference ? colour("--accent") : colour("--quiet"),
                  opacity: f.used ? 1 : 0.25,
                  ...(f.shown ? { stroke: colour("--ink"), lineWidth: 1 } : {}),
                },
              };
            },
          },
        ],
      },
      true,
    );
  }, [s, frames]);
  return (
    <div
      ref={box}
      role="img"
      aria-label={`Scene from ${signed(s.lowEv)} to ${signed(s.highEv)} EV, ${frames.length} frames`}
      className="h-52 w-full"
    />
  );
}
