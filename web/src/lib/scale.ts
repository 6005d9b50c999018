/** A figure's place on a straight scale, and back; its round steps are d3-array's. */
import { nice, ticks } from "d3-array";

export interface Linear {
  (value: number): number;
  domain: () => [number, number];
  ticks: (count: number) => number[];
  invert: (place: number) => number;
}

interface More {
  /** Widen the domain to round figures of about so many steps. */
  nice?: number;
  /** Figures beyond the domain lie at its ends. */
  clamp?: boolean;
}

/** A scale from a domain to a range; where the domain is a point, everything lies in the middle. */
export function linear(
  domain: readonly [number, number],
  [near, far]: readonly [number, number],
  { nice: steps, clamp = false }: More = {},
): Linear {
  const [from, to] = steps ? nice(domain[0], domain[1], steps) : domain;
  const part = (value: number) => (to === from ? 0.5 : (value - from) / (to - from));
  const kept = (p: number) => (clamp ? Math.min(1, Math.max(0, p)) : p);
  const scale = (value: number) => near + kept(part(value)) * (far - near);
  return Object.assign(scale, {
    domain: (): [number, number] => [from, to],
    ticks: (count: number) => ticks(from, to, count),
    invert: (place: number) => from + kept((place - near) / (far - near)) * (to - from),
  });
}

/** What each ± that is shown holds. */
export const KNOWN_TO = "95 %";

/** How far the true figure may lie away, with that coverage, of one standard uncertainty. */
export const reach = (u: number) => 1.96 * u;
