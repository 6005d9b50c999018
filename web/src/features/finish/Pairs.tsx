/** Before and after: where each bob hung, where it hangs now, and a thread between the two. */
import type { JobView } from "../../api/client";
import { plumbScale, BobShape, type Ground, type Tone } from "../../ui/PlumbChart";
import type { Finishing } from "./useFinish";

type Pair = Finishing["pairs"][number];

/** Tenths of each sheet's own corridor: coils and flow hang on one scale. */
const GROUND: Ground = { relative: true, unit: "", centre: 0, low: -10, high: 10, decimals: 0 };
const SCALE = plumbScale(GROUND, 32);
const TONES: Record<string, Tone> = {
  better: "open",
  unchanged: "open",
  worse: "high",
  not_settled: "open",
};

export function Pairs({ job }: { job: JobView }) {
  const { pairs, swaps } = job.finishing;
  return (
    <section aria-label="Before and after" className="mb-4">
      <h2 className="mb-1 text-lg font-bold">Before and after</h2>
      {swaps.map((text) => (
        <p key={text} className="mb-1 border-l-4 border-chalk pl-3">
          {text}.
        </p>
      ))}
      <ul className="rounded-lg border border-hair bg-sheet">
        {pairs.map((pair) => (
          <li
            key={`${pair.sheet} ${pair.row}`}
            className="grid items-center gap-x-3 border-b border-hair px-3 py-1 last:border-0 md:grid-cols-[10rem_minmax(0,1fr)_15rem]"
          >
            <span>
              <b className="figure text-lg">{pair.row}</b>{" "}
              <span className="text-sm text-soft">{pair.title}</span>
            </span>
            <Thread pair={pair} />
            <span className="text-sm">
              <b>{pair.word_text}</b>
              <span className="block text-soft">{pair.text}</span>
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm text-soft">
        Outlined: before. Filled: after. In the band they are as they should be.
      </p>
    </section>
  );
}

const clip = (at: number) => Math.min(30, Math.max(-30, at));

function Thread({ pair }: { pair: Pair }) {
  const tone = TONES[pair.word] ?? "";
  const before = pair.before_at === null ? null : SCALE.x(clip(pair.before_at));
  const after = pair.after_at === null ? null : SCALE.x(clip(pair.after_at));
  return (
    <svg width="100%" height={44} role="img" aria-label={pair.text} className="overflow-visible">
      <rect
        x={`${SCALE.x(-10)}%`}
        width={`${SCALE.x(10) - SCALE.x(-10)}%`}
        y={0}
        height={44}
        fill="var(--band)"
      />
      <line x1="50%" x2="50%" y1={0} y2={44} stroke="var(--ink)" strokeWidth={1.4} />
      {before !== null && after !== null && (
        <line
          x1={`${before}%`}
          x2={`${after}%`}
          y1={24}
          y2={24}
          stroke="var(--ink)"
          strokeDasharray="3 4"
          strokeWidth={1.5}
        />
      )}
      <Bob
        x={before}
        words={pair.before_words}
        filled={false}
        tone="open"
        anchor={before !== null && after !== null && before > after ? "start" : "end"}
      />
      <Bob
        x={after}
        words={pair.after_words}
        filled
        tone={tone}
        anchor={before !== null && after !== null && before > after ? "end" : "start"}
      />
    </svg>
  );
}

interface BobProps {
  x: number | null;
  words: string;
  filled: boolean;
  tone: Tone;
  anchor: "start" | "end";
}

/** A bob with its figure; a sheet of words has the word in the bob's stead, before on the left. */
function Bob({ x, words, filled, tone, anchor }: BobProps) {
  const where = x ?? (filled ? 78 : 22);
  return (
    <svg x={`${where}%`} y={22} overflow="visible">
      {x !== null && <BobShape tone={tone} filled={filled} />}
      <text
        x={x === null ? 0 : anchor === "start" ? 13 : -13}
        y={4}
        textAnchor={x === null ? "middle" : anchor}
        fontSize={13}
        fontWeight={filled ? 700 : 400}
        fill={filled ? "var(--ink)" : "var(--soft)"}
        className="figure"
      >
        {words}
      </text>
    </svg>
  );
}
