/** The last half minute of figures as a line; drawn past React, so that twenty a second cost little. */
import { useEffect, useEffectEvent, useRef, type RefObject } from "react";
import type { Samples } from "./line";

const W = 640;
const H = 150;
const LEFT = 48;
const KEPT_S = 30;

/** What was streamed: the last half minute, and how the drawing hears of more. */
export class Trail {
  t: number[] = [];
  v: number[] = [];
  private listener: () => void = () => undefined;

  /** Hear of more; gives back how to stop. */
  listen(listener: () => void): () => void {
    this.listener = listener;
    return () => {
      this.listener = () => undefined;
    };
  }

  add(more: Samples): void {
    this.t.push(...more.t);
    this.v.push(...more.v);
    const since = (this.t.at(-1) ?? 0) - KEPT_S;
    const old = this.t.findIndex((t) => t >= since);
    if (old > 0) {
      this.t.splice(0, old);
      this.v.splice(0, old);
    }
    this.listener();
  }
}

function bounds(values: number[]): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const v of values) {
    if (v < low) low = v;
    if (v > high) high = v;
  }
  const pad = Math.max(0.08 * (high - low), 0.02 * Math.abs(high), 0.05);
  return [low - pad, high + pad];
}

/** The path of the line, and what stands at its ends. */
export function drawn(trail: { t: number[]; v: number[] }): {
  d: string;
  low: number;
  high: number;
} {
  const [low, high] = bounds(trail.v);
  const last = trail.t.at(-1) ?? 0;
  let d = "";
  trail.t.forEach((t, n) => {
    const x = W - ((last - t) / KEPT_S) * (W - LEFT);
    const y = H - 8 - (((trail.v[n] ?? low) - low) / (high - low)) * (H - 16);
    // A pause in the figures is a pause in the line.
    const gap = n === 0 || t - (trail.t[n - 1] ?? t) > 0.6;
    d += `${gap ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`;
  });
  return { d, low, high };
}

interface Marks {
  path: RefObject<SVGPathElement | null>;
  top: RefObject<SVGTextElement | null>;
  foot: RefObject<SVGTextElement | null>;
  figure: RefObject<HTMLOutputElement | null>;
}

function put(marks: Marks, trail: Trail, decimals: number): void {
  if (trail.v.length === 0) return;
  const { d, low, high } = drawn(trail);
  marks.path.current?.setAttribute("d", d);
  if (marks.top.current) marks.top.current.textContent = high.toFixed(1);
  if (marks.foot.current) marks.foot.current.textContent = low.toFixed(1);
  const shown = (trail.v.at(-1) ?? 0).toFixed(decimals);
  if (marks.figure.current) marks.figure.current.textContent = shown;
}

/** Draw at most once a frame. */
function useDrawing(marks: Marks, trail: Trail, decimals: number): void {
  const draw = useEffectEvent(() => put(marks, trail, decimals));
  useEffect(() => {
    let frame = 0;
    const stop = trail.listen(() => {
      if (frame !== 0) return;
      frame = requestAnimationFrame(() => {
        frame = 0;
        draw();
      });
    });
    draw();
    return () => {
      stop();
      cancelAnimationFrame(frame);
    };
  }, [trail]);
}

interface Props {
  trail: Trail;
  unit: string;
  decimals: number;
}

const AT_EDGE = { textAnchor: "end", fontSize: 13, fill: "var(--soft)" } as const;

export function Stream({ trail, unit, decimals }: Props) {
  const path = useRef<SVGPathElement>(null);
  const top = useRef<SVGTextElement>(null);
  const foot = useRef<SVGTextElement>(null);
  const figure = useRef<HTMLOutputElement>(null);
  useDrawing({ path, top, foot, figure }, trail, decimals);
  return (
    <div className="flex flex-wrap items-center gap-x-4">
      <p className="w-48 whitespace-nowrap text-right">
        <output
          ref={figure}
          aria-label="The instrument shows"
          className="figure text-5xl font-bold"
        >
          –
        </output>{" "}
        <span className="text-soft">{unit}</span>
      </p>
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="block min-w-60 flex-1"
        role="img"
        aria-label={`The last ${KEPT_S} seconds, ${unit}`}
      >
        <line x1={LEFT} y1={H - 8} x2={W} y2={H - 8} stroke="var(--hair)" />
        <line x1={LEFT} y1={8} x2={W} y2={8} stroke="var(--hair)" />
        <text ref={top} x={LEFT - 6} y={14} className="figure" {...AT_EDGE} />
        <text ref={foot} x={LEFT - 6} y={H - 4} className="figure" {...AT_EDGE} />
        <path ref={path} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
      </svg>
    </div>
  );
}
