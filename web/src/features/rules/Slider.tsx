/** A slider with its figure in words; arrows move it by a step. */
import * as Radix from "@radix-ui/react-slider";

interface Props {
  label: string;
  told: string;
  value: number;
  from: number;
  to: number;
  step: number;
  onChange: (value: number) => void;
}

export function Slider({ label, told, value, from, to, step, onChange }: Props) {
  return (
    <div>
      <p className="flex justify-between gap-2 text-sm">
        <span>{label}</span>
        <b className="figure whitespace-nowrap">{told}</b>
      </p>
      <Radix.Root
        className="relative flex h-11 touch-none items-center"
        value={[value]}
        min={from}
        max={to}
        step={step}
        onValueChange={([next]) => next !== undefined && onChange(next)}
      >
        <Radix.Track className="relative h-0.5 grow bg-soft">
          <Radix.Range className="absolute h-full bg-ink" />
        </Radix.Track>
        <Radix.Thumb
          aria-label={label}
          aria-valuetext={told}
          className="block h-7 w-4 rounded-sm border-2 border-ink bg-sheet outline-offset-4 focus-visible:outline-3 focus-visible:outline-chalk"
        />
      </Radix.Root>
    </div>
  );
}
