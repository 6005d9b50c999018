/** A pad for a PIN: keys of 64 px and more, the number keys of a keyboard too. */
import { useCallback, useEffect, useState } from "react";
import { told } from "../../api/client";
import { BusyButton, Trouble } from "../../ui/parts";
import { useSignIn } from "./people";

const LEAST = 4;
const MOST = 8;
const BACK = "Backspace";
const DIGITS = ["1", "2", "3", "4", "5", "6", "7", "8", "9"];
const KEY =
  "grid min-h-16 min-w-16 place-items-center rounded-lg border border-soft bg-field text-2xl font-bold";

/** The digits so far, and what they go through: keys of the pad and of a keyboard. */
function usePin(send: (pin: string) => void) {
  const [pin, setPin] = useState("");
  const enter = useCallback(() => {
    if (pin.length < LEAST) return;
    send(pin);
    setPin("");
  }, [send, pin]);
  const press = useCallback((key: string) => {
    setPin((now) => (key === BACK ? now.slice(0, -1) : (now + key).slice(0, MOST)));
  }, []);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (/^\d$/.test(e.key) || e.key === BACK) press(e.key);
      else if (e.key === "Enter" && !(e.target instanceof HTMLButtonElement)) enter();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [enter, press]);
  return { pin, press, enter };
}

export function Pad({ who }: { who: { id: number; name: string } }) {
  const { mutate, isError, error, isPending } = useSignIn();
  const send = useCallback((pin: string) => mutate({ person_id: who.id, pin }), [mutate, who.id]);
  const { pin, press, enter } = usePin(send);
  return (
    <section aria-label="PIN" className="w-full max-w-xs">
      <p aria-live="polite" className="figure mb-3 h-10 text-3xl tracking-[0.4em]">
        {"●".repeat(pin.length) || <span className="text-base tracking-normal text-soft">PIN</span>}
        <span className="sr-only">{pin.length} digits</span>
      </p>
      <Trouble text={isError ? told(error) : null} />
      <div className="grid grid-cols-3 gap-2">
        {DIGITS.map((d) => (
          <button key={d} className={KEY} onClick={() => press(d)}>
            {d}
          </button>
        ))}
        <button className={KEY} aria-label="Take the last one back" onClick={() => press(BACK)}>
          ⌫
        </button>
        <button className={KEY} onClick={() => press("0")}>
          0
        </button>
        <BusyButton
          className={`${KEY} aria-disabled:text-soft`}
          busy={pin.length < LEAST || isPending}
          onClick={enter}
        >
          Enter
        </BusyButton>
      </div>
    </section>
  );
}
