/** Which limits a window on the shelf can hold, by the sheet it is for. */
export const KIND_NAMES: Record<string, string> = {
  coil_resistance: "Coils",
  coil_voltage_drop: "Coils under load",
  supply_pressure: "Supply pressure",
  hold: "Hold",
  pressure_drop: "Drop per injector",
  injector_balance_running: "Balance while idling",
  flow_bench: "Flow bench",
  correction: "Corrections",
  return_volume: "Return volumes",
  opening_pressure: "Opening pressure",
};

export const KIND_UNITS: Record<string, string[]> = {
  coil_resistance: ["ohm"],
  coil_voltage_drop: ["V"],
  flow_bench: ["ml"],
  return_volume: ["ml"],
  correction: ["mm3", "percent", "ms"],
};
export const PRESSURES = ["psi", "kPa", "bar", "MPa", "kgf/cm2"];

type Fields = [key: string, label: string, numeric: boolean][];

const expected: Fields = [
  ["expected.drop", "What is expected", true],
  ["expected.source", "Who says so", false],
];

export const KIND_FIELDS: Record<string, Fields> = {
  coil_resistance: [
    ["window.low", "Lower limit", true],
    ["window.high", "Upper limit", true],
    ["window.from_c", "holds from, °C", true],
    ["window.to_c", "holds up to, °C", true],
    ["window.spread", "Largest difference across the set", true],
    ["window.source", "Who says so", false],
  ],
  coil_voltage_drop: [
    ["window.low", "Lower limit", true],
    ["window.high", "Upper limit", true],
    ["window.spread", "Largest difference across the set", true],
    ["window.source", "Who says so", false],
  ],
  supply_pressure: [
    ["windows.key_on.low", "Key on, lower limit", true],
    ["windows.key_on.high", "Key on, upper limit", true],
    ["windows.key_on.source", "Who says so", false],
    ["windows.running.low", "Running, lower limit", true],
    ["windows.running.high", "Running, upper limit", true],
    ["windows.hose_off.low", "Hose off, lower limit", true],
    ["windows.hose_off.high", "Hose off, upper limit", true],
  ],
  hold: [
    ["window.lost_at_most", "Lost at most", true],
    ["window.within_s", "within so many seconds", true],
    ["window.left_at_least", "Left at least", true],
    ["window.after_s", "after so many seconds", true],
    ["window.source", "Who says so", false],
  ],
  pressure_drop: expected,
  injector_balance_running: expected,
  flow_bench: expected,
  correction: [
    ["window.apart", "At most from those that agree", true],
    ["window.source", "Who says so", false],
  ],
  return_volume: [
    ["window.high", "At most in the time of the sheet", true],
    ["window.source", "Who says so", false],
  ],
  opening_pressure: [
    ["window.low", "Lower limit", true],
    ["window.high", "Upper limit", true],
    ["window.spread", "Largest difference across the set", true],
    ["window.source", "Who says so", false],
  ],
};
