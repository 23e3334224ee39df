"use client";

/**
 * Lines and bars that are drawn into a chart from properties instead of the chart's data: when they change
 * only they are drawn anew, not the axes, the grid and all that hangs on the data. The chart's own data are
 * the places on its axis, for the tip.
 */
import { createContext, useContext, type ReactNode, type SVGProps } from "react";
import { Line, Tooltip, usePlotArea, useXAxisScale, useYAxisScale } from "recharts";

/** A place of the chart's axis `x`, and which it is; the same data as long as the axis is the same. */
export interface Place {
  x: number;
  place: number;
}
export const placesOf = (at: readonly number[]): Place[] => at.map((x, place) => ({ x, place }));

/** What the tip says of each place; nothing where it is null. */
export const TipOf = createContext<(place: number) => ReactNode>(() => null);

function Tip({ active, payload }: { active?: boolean; payload?: readonly { payload?: Place }[] }) {
  const contents = useContext(TipOf)(payload?.[0]?.payload?.place ?? -1);
  return active && contents ? <div className="chart-tip">{contents}</div> : null;
}
/** Among the children of every such chart: its tip, and what it knows its places by, which is not seen. */
export const placeTip = <Tooltip content={<Tip />} includeHidden isAnimationActive={false} />;
export const placeLine = <Line dataKey="x" hide isAnimationActive={false} />;

/** The plane between the axes, in the coordinates of the chart; what lies outside is cut off. */
function Plane({ children }: { children: ReactNode }) {
  const area = usePlotArea();
  if (!area) return null;
  const { x, y, width, height } = area;
  return (
    <svg x={x} y={y} width={width} height={height} viewBox={`${x} ${y} ${width} ${height}`}>
      {children}
    </svg>
  );
}

/** Where values of both axes lie in the chart; null until its size is known. */
function usePlaces() {
  const [x, y] = [useXAxisScale(), useYAxisScale()];
  return x && y ? { x, y } : null;
}

type Value = number | null | undefined;

/** A line through points; it is broken where there is no value. */
export function DrawnLine({
  at,
  values,
  ...path
}: { at: readonly number[]; values: readonly Value[] } & Omit<SVGProps<SVGPathElement>, "values">) {
  const places = usePlaces();
  if (!places) return null;
  let d = "";
  let isDown = false;
  at.forEach((place, i) => {
    const value = values[i];
    const [x, y] = [places.x(place), typeof value === "number" ? places.y(value) : undefined];
    const isThere = x !== undefined && y !== undefined;
    if (isThere) d += `${isDown ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    isDown = isThere;
  });
  return (
    <Plane>
      <path d={d} fill="none" strokeWidth={2} {...path} />
    </Plane>
  );
}

export interface DrawnBar {
  value: Value;
  fill: string;
  fillOpacity?: number;
}

/** Bars from zero to their values, at places of the axis. */
export function DrawnBars({
  at,
  bars,
  from,
  to,
}: {
  at: readonly number[];
  bars: readonly DrawnBar[];
  /** How far they reach beside their places, in units of the axis. */
  from: number;
  to: number;
}) {
  const places = usePlaces();
  const zero = places?.y(0);
  if (!places || zero === undefined) return null;
  return (
    <Plane>
      {bars.map(({ value, ...look }, i) => {
        const [left, right] = [places.x(at[i]! + from), places.x(at[i]! + to)];
        const y = typeof value === "number" ? places.y(value) : undefined;
        return left === undefined || right === undefined || y === undefined ? null : (
          <rect
            key={at[i]}
            x={left}
            y={Math.min(y, zero)}
            width={right - left}
            height={Math.abs(y - zero)}
            {...look}
          />
        );
      })}
    </Plane>
  );
}
