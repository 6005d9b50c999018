/** Two pressures of a rail: what is wanted, and what is there. */
import type { Shape } from "./shape";

export const pair: Shape = {
  hint: () =>
    "Type both with a space between, wanted first, then Enter; or bring in a trace below.",
  keys: () => [["300 180 Enter", "wanted and actual, kept at once; 30MPa with a unit of its own"]],
  acts: () => ({}),
  Knobs: () => null,
};
