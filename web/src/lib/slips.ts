/**
 * Slips of busy hands, asked about before a figure is kept, also where the server cannot be asked.
 * The rules are those of plumb.core.slips; tests/data/slips.json holds cases for both.
 */
export interface Scale {
  unit: string;
  step: string;
  fuelSystem: string;
  starts: number[];
}

export interface Question {
  code: string;
  field: "first" | "second";
  text: string;
  suggestion: [string, string] | null;
  refused: boolean;
}

export const KPA_PER: Record<string, number> = {
  psi: 6.894757293168,
  kPa: 1,
  bar: 100,
  MPa: 1000,
  "kgf/cm2": 98.0665,
};

const USUAL_START: Record<string, [number, number]> = {
  port: [70, 700],
  throttle_body: [40, 400],
  direct: [200, 25_000],
  common_rail: [10_000, 250_000],
  mechanical_diesel: [5_000, 50_000],
};

const FAR_RATIO = 1.6;

/** The number a person typed, a comma counting as the decimal mark; null when it is none. */
export function parseTyped(text: string): number | null {
  const typed = text.trim().replace("\u2212", "-");
  const apart = /^[+-]?\d{1,3}(['\u2019 \u2009\u202f]\d{3})+([.,]\d+)?$/.test(typed);
  const cleaned = (apart ? typed.replace(/['\u2019 \u2009\u202f]/g, "") : typed).replace(",", ".");
  return /^[+-]?(\d+(\.\d*)?|\.\d+)$/.test(cleaned) ? Number(cleaned) : null;
}

const SECONDS: Record<string, number> = { s: 1, sec: 1, min: 60, h: 3600 };

/** Seconds, typed as such, by the clock (20:00) or in minutes; null when it is no time. */
export function secondsIn(text: string): number | null {
  const clock = /^(?:(\d{1,2}):)?(\d{1,3}):([0-5]\d)$/.exec(text.trim());
  if (clock) return 3600 * Number(clock[1] ?? 0) + 60 * Number(clock[2]) + Number(clock[3]);
  const typed = withUnit(text);
  const value = parseTyped(typed?.figure ?? text);
  const per = typed ? SECONDS[typed.unit.toLowerCase()] : 1;
  return value === null || per === undefined ? null : Number((value * per).toPrecision(12));
}

/** A figure with a unit behind it: its parts, or null where there is no unit. */
function withUnit(text: string): { figure: string; unit: string } | null {
  const found = /^([^a-zµΩ%]+?)\s*([a-zµΩ%][a-zµΩ%/0-9]*)$/i.exec(text.trim());
  return found ? { figure: found[1] ?? "", unit: found[2] ?? "" } : null;
}

/** Whether a unit was typed behind the figure. */
export function hasUnit(text: string): boolean {
  return withUnit(text) !== null;
}

const TYPED_KPA = new Map(
  Object.entries({ ...KPA_PER, mbar: 0.1, at: 98.0665, "kg/cm2": 98.0665 }).map(
    ([unit, kpa]) => [unit.toLowerCase(), kpa] as const,
  ),
);

/** A pressure in `unit`, whatever pressure unit was typed behind it; null when it is none. */
export function pressureIn(text: string, unit: string): number | null {
  const typed = withUnit(text);
  if (!typed) return parseTyped(text);
  const value = parseTyped(typed.figure);
  const kpa = TYPED_KPA.get(typed.unit.toLowerCase());
  const own = KPA_PER[unit];
  if (value === null || kpa === undefined || own === undefined) return null;
  return typed.unit.toLowerCase() === unit.toLowerCase() ? value : (value * kpa) / own;
}

/** Without float dust: 500 / 10 is 50, 26.3 is 26.3. */
function plain(value: number): string {
  return String(Number(value.toPrecision(12)));
}

function usual(scale: Scale): [number, number] {
  if (scale.starts.length > 0) {
    const ranked = [...scale.starts].sort((a, b) => a - b);
    const middle = ranked[Math.floor(ranked.length / 2)] ?? 0;
    return [middle / FAR_RATIO, middle * FAR_RATIO];
  }
  const [low, high] = USUAL_START[scale.fuelSystem] ?? [70, 700];
  const factor = KPA_PER[scale.unit] ?? 1;
  return [low / factor, high / factor];
}

function splitDigits(text: string, scale: Scale): [string, string] | null {
  const digits = text.trim();
  if (!/^\d+$/.test(digits) || ![3, 4, 6].includes(digits.length)) return null;
  const cut = digits.length === 3 ? 2 : digits.length / 2;
  const first = digits.slice(0, cut);
  const second = digits.slice(cut);
  const [low, high] = usual(scale);
  const fits = low <= Number(first) && Number(first) <= high && Number(second) < Number(first);
  return fits && !second.startsWith("0") ? [first, second] : null;
}

function far(value: number, other: string, scale: Scale): Question | null {
  const [low, high] = usual(scale);
  if (low <= value && value <= high) return null;
  const tenth = value / 10;
  const near =
    scale.starts.length > 0 ? "the other first readings" : "what this fuel system runs at";
  if (value > high && low <= tenth && tenth <= high) {
    return {
      code: "point_missing",
      field: "first",
      text: `${plain(value)} ${scale.unit} is far above ${near}. Did you mean ${plain(tenth)}?`,
      suggestion: [plain(tenth), other],
      refused: false,
    };
  }
  const side = value > high ? "above" : "below";
  return {
    code: "far_off",
    field: "first",
    text: `${plain(value)} ${scale.unit} is far ${side} ${near}. Is it right?`,
    suggestion: null,
    refused: false,
  };
}

function offStep(value: number, field: "first" | "second", scale: Scale): Question | null {
  const step = Number(scale.step);
  const steps = value / step;
  if (Math.abs(steps - Math.round(steps)) < 1e-6) return null;
  const below = plain(Math.floor(steps) * step);
  const above = plain((Math.floor(steps) + 1) * step);
  return {
    code: "off_step",
    field,
    text: `${plain(value)} lies between ${below} and ${above}: this gauge reads to ${plain(step)} ${scale.unit}. Keep it as typed?`,
    suggestion: null,
    refused: false,
  };
}

function order(one: number, two: number, texts: [string, string], scale: Scale): Question | null {
  const rise = two - one;
  if (rise <= 0) return null;
  if (rise > 2 * Number(scale.step) + 1e-9) {
    return {
      code: "swapped",
      field: "second",
      text: `The pressure cannot rise in a burst. Did you mean ${texts[1]} then ${texts[0]}? If it did rise, the pump was still on: wait until it rests and read again.`,
      suggestion: [texts[1], texts[0]],
      refused: true,
    };
  }
  return {
    code: "rise",
    field: "second",
    text: `The second reading is ${plain(rise)} ${scale.unit} above the first. Keep it as no drop?`,
    suggestion: null,
    refused: false,
  };
}

/** Questions about one burst as typed; none: it can be kept. */
export function checkDrop(first: string, second: string | null, scale: Scale): Question[] {
  const one = pressureIn(first, scale.unit);
  if (one === null) return [notNumber(first, "first")];
  if (one < 0) return [negative(one, "first", second ?? "")];
  if (second === null) {
    const pair = splitDigits(first, scale);
    if (one > usual(scale)[1] && pair) {
      return [
        {
          code: "run_together",
          field: "first",
          text: `${first} is far above this rail. Did you mean ${pair[0]} and ${pair[1]}?`,
          suggestion: pair,
          refused: false,
        },
      ];
    }
    const asked = far(one, "", scale);
    return asked ? [asked] : [];
  }
  const two = pressureIn(second, scale.unit);
  if (two === null) return [notNumber(second, "second")];
  if (two < 0) return [negative(two, "second", first.trim())];
  const rising = order(one, two, [first.trim(), second.trim()], scale);
  if (rising) return [rising];
  // The last digit of another unit is the other scale's, not a step of this gauge.
  return [
    far(one, second.trim(), scale),
    hasUnit(first) ? null : offStep(one, "first", scale),
    hasUnit(second) ? null : offStep(two, "second", scale),
  ].filter((q): q is Question => q !== null);
}

function negative(value: number, field: "first" | "second", other: string): Question {
  const meant = plain(-value);
  return {
    code: "negative",
    field,
    text: `A gauge on a rail reads nothing below zero. Did you mean ${meant}?`,
    suggestion: field === "first" ? [meant, other] : [other, meant],
    refused: true,
  };
}

function notNumber(text: string, field: "first" | "second"): Question {
  return {
    code: "not_a_number",
    field,
    text: `"${text}" is not a figure. Type digits, for example 26.5.`,
    suggestion: null,
    refused: true,
  };
}
